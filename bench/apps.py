from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "bench"
    default_auto_field = "django.db.models.BigAutoField"
