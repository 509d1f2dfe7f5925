"""Loads the demo: an account, the scans of bracket, pump cover and pump housing, a supplier's STEP file and nine jobs. Running it again changes nothing that exists."""

from __future__ import annotations

import json
import os
import secrets
import tempfile
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management import BaseCommand

from bench.blobs import keep
from bench.jobs import import_recipe
from bench.last_breath import dies_with_its_parent
from bench.models import Job, Upload

_MOST_PROCESSES = 4  # each holds the kernel and a scan or two


class Command(BaseCommand):
    help = "load the demo account, scan and jobs"

    def handle(self, *args: Any, **options: Any) -> None:
        user, fresh = get_user_model().objects.get_or_create(username="demo")
        if fresh:
            user.set_password(secrets.token_urlsafe(16))  # the printed address is the way in
            user.save()
        if not Job.objects.filter(owner=user).exists():
            self._load(user)

    def _load(self, user: Any) -> None:
        # Imported late, as an ordinary start needs no kernel; and before the other processes are forked, which then have it too.
        from demo.files import FILES, made_file

        folder = settings.VAR / "demo"
        folder.mkdir(exist_ok=True)
        with ProcessPoolExecutor(
            min(os.cpu_count() or 1, _MOST_PROCESSES), mp_context=get_context("fork"), initializer=dies_with_its_parent
        ) as pool:
            self.stdout.write("scanning three parts (virtually, once) …")
            self.stdout.flush()
            waiting = [pool.submit(made_file, name, folder) for name in FILES]
            for made in waiting:
                made.result()
            self._jobs(user, folder, pool.submit)

    def _jobs(self, user: Any, folder: Path, at_once: Callable[..., Future[Any]]) -> None:
        from demo.bracket_print import bracket_print
        from demo.files import BRACKET, COVER, HOUSING, SIDE_PLATE
        from demo.gland_nut import gland_nut_job, gland_nut_photo
        from demo.jobs import bare_job, cover_job, rebuilt_job, seated_job
        from demo.measured import measured_job
        from demo.pump_housing import housing_job
        from demo.side_plate import side_plate_job

        kept, housed, plate = folder / BRACKET, folder / HOUSING, folder / SIDE_PLATE
        covers = [folder / name for name in COVER]
        blobs = {path: keep(user, path.read_bytes()) for path in (kept, housed, plate, *covers)}
        drawing = self._picture(user, bracket_print(), "rope-guide-print.png")
        # What takes longest first.
        whole = at_once(_whole_cover, covers)
        housing = at_once(housing_job, blobs[housed], housed)
        seated = at_once(seated_job, blobs[kept], kept)
        side_plate = at_once(side_plate_job, blobs[plate], plate)
        measured = at_once(measured_job, blobs[kept], kept, drawing)
        rebuilt = at_once(rebuilt_job, blobs[kept], kept)
        told = {path: at_once(_facts, path) for path in blobs}
        self._truth_models(folder)
        data, shot = gland_nut_photo()
        nut = gland_nut_job(self._picture(user, data, "gland-nut-on-card.jpg"), shot)
        for path, facts in told.items():
            size, kind = path.stat().st_size, path.suffix[1:]
            Upload.objects.create(
                owner=user, name=path.name, blob=blobs[path], size=size, format=kind, facts=facts.result()
            )
        # The shelf shows what came last first.
        for recipe in (nut, side_plate, measured, housing, whole):
            import_recipe(user, recipe.result() if isinstance(recipe, Future) else recipe)
        import_recipe(user, cover_job(*(blobs[path] for path in covers)))
        for recipe in (seated, rebuilt):
            import_recipe(user, recipe.result())
        import_recipe(user, bare_job(blobs[kept]))

    def _picture(self, user: Any, data: bytes, name: str) -> str:
        """A picture kept as an upload of the demo user's; its hash."""
        from contour.exchange.picture import read_picture

        kept = read_picture(data, name)
        blob = keep(user, kept.data)
        Upload.objects.create(owner=user, name=name, blob=blob, size=len(kept.data), format=kept.format)
        return blob

    def _truth_models(self, folder: Path) -> None:
        """What the virtual scanner may scan again, and the sizes that the caliper may measure."""
        from demo.files import MODELS
        from demo.gland_nut import SIZES

        rows = [{"name": name, "blob": keep(None, (folder / f"{name}.step").read_bytes())} for name in MODELS]
        (folder / "truth-models.json").write_text(json.dumps(rows))
        sizes = [
            {"model": "Gland nut", "name": n, "mm": mm, "inside": m == "inside"} for n, (mm, m, *_) in SIZES.items()
        ]
        (folder / "truth-sizes.json").write_text(json.dumps(sizes))


def _facts(path: Path) -> Any:
    """What is told of a file that is brought in, in mm."""
    from contour.job.work.tasks import TASKS

    return TASKS["inspect"]({"path": str(path), "name": path.name, "unit": "mm"}, lambda _: None)["facts"]


def _whole_cover(paths: Sequence[Path]) -> Any:
    """The pump cover rebuilt from both of its scans."""
    from contour.job.build.store import Store
    from demo.cover_job import complete_cover_job

    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        upper, lower = (store.put_blob(path.read_bytes()) for path in paths)
        return complete_cover_job(upper, lower, store)
