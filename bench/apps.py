from django.apps import AppConfig


class BenchConfig(AppConfig):
    """Loads the tasks, so that the worker knows them."""

    name = "bench"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        import bench.work  # noqa: F401
