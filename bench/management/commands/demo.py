"""Loads the demo: an account, the scans of bracket, pump cover and pump housing, a supplier's STEP file and nine jobs. Running it again changes nothing that exists."""

from __future__ import annotations

import json
import secrets
import shutil
import tempfile
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.core.management import BaseCommand

from bench.blobs import keep
from bench.jobs import import_recipe
from bench.models import Job, Upload
from contour.exchange.scanfile import read_scan
from contour.mesh.health import inspect_scan


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
        # Imported late: making the scan needs the kernel, an ordinary start does not.
        from demo.gland_nut import SIZES
        from demo.jobs import bare_job, cover_job, rebuilt_job, seated_job, write_demo_scan

        kept = settings.VAR / "demo" / "rope-guide-bracket.stl"
        if not kept.exists():
            self.stdout.write("scanning the rope-guide bracket (virtually, once) …")
            with tempfile.TemporaryDirectory() as folder:
                draft = Path(folder) / kept.name
                write_demo_scan(draft)
                kept.parent.mkdir(exist_ok=True)
                shutil.move(draft, kept)
        blob = keep(user, kept.read_bytes())
        facts = inspect_scan(read_scan(kept), 1.0).as_json()
        Upload.objects.create(
            owner=user, name=kept.name, blob=blob, size=kept.stat().st_size, format="stl", facts=facts
        )
        self._truth_models()
        sizes = [
            {"model": "Gland nut", "name": n, "mm": mm, "inside": m == "inside"} for n, (mm, m, *_) in SIZES.items()
        ]
        (settings.VAR / "demo" / "truth-sizes.json").write_text(json.dumps(sizes))
        import_recipe(user, self._gland_nut(user))
        import_recipe(user, self._side_plate(user))
        import_recipe(user, self._measured(user, blob, kept))
        import_recipe(user, self._housing(user))
        scans = self._cover_scans(user)
        import_recipe(user, self._whole_cover(scans))
        import_recipe(user, cover_job(*scans))
        import_recipe(user, seated_job(blob, kept))
        import_recipe(user, rebuilt_job(blob, kept))
        import_recipe(user, bare_job(blob))

    def _picture(self, user: Any, data: bytes, name: str) -> str:
        """A picture kept as an upload of the demo user's; its hash."""
        from contour.exchange.picture import read_picture

        kept = read_picture(data, name)
        blob = keep(user, kept.data)
        Upload.objects.create(owner=user, name=name, blob=blob, size=len(kept.data), format=kept.format)
        return blob

    def _gland_nut(self, user: Any) -> Any:
        """A job without a scan: readings and a photo."""
        from demo.gland_nut import gland_nut_job, gland_nut_photo

        data, shot = gland_nut_photo()
        return gland_nut_job(self._picture(user, data, "gland-nut-on-card.jpg"), shot)

    def _side_plate(self, user: Any) -> Any:
        """A job that rests on a solid from a file alone."""
        from contour.job.work.tasks import TASKS
        from demo.side_plate import FILE_NAME, side_plate_job, side_plate_step

        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / FILE_NAME
            side_plate_step(file)
            blob = keep(user, file.read_bytes())
            said = TASKS["inspect"]({"path": str(file), "name": FILE_NAME, "unit": "mm"}, lambda _: None)
            Upload.objects.create(
                owner=user, name=FILE_NAME, blob=blob, size=file.stat().st_size, format="step", facts=said["facts"]
            )
            return side_plate_job(blob, file)

    def _housing(self, user: Any) -> Any:
        """The pump housing, rebuilt up to what it holds."""
        from demo.pump_housing import FILE_NAME, housing_job, write_housing_scan

        path = settings.VAR / "demo" / FILE_NAME
        if not path.exists():
            self.stdout.write("scanning the pump housing (virtually, once) …")
            path.parent.mkdir(exist_ok=True)
            write_housing_scan(path)
        blob = keep(user, path.read_bytes())
        facts = inspect_scan(read_scan(path), 1.0).as_json()
        Upload.objects.create(
            owner=user, name=path.name, blob=blob, size=path.stat().st_size, format="ply", facts=facts
        )
        return housing_job(blob, path)

    def _measured(self, user: Any, blob: str, scan: Path) -> Any:
        """A scan, readings tied to it, and an old print."""
        from demo.bracket_print import bracket_print
        from demo.measured import measured_job

        return measured_job(blob, scan, self._picture(user, bracket_print(), "rope-guide-print.png"))

    def _truth_models(self) -> None:
        """The demo's solids as STEP, for the virtual scanner to scan again."""
        from contour.exchange.step import write_step
        from demo.bracket import bracket
        from demo.pump_cover import pump_cover
        from demo.pump_housing import pump_housing

        rows = []
        parts = (("Rope-guide bracket", bracket), ("Pump cover", pump_cover), ("Pump housing", pump_housing))
        for name, part in parts:
            made = part()
            path = settings.VAR / "demo" / f"{name}.step"
            write_step(path, [(name, made.shape, None)], unit="mm")
            rows.append({"name": name, "blob": keep(None, path.read_bytes())})
        (settings.VAR / "demo" / "truth-models.json").write_text(json.dumps(rows))

    def _whole_cover(self, scans: list[str]) -> Any:
        """The pump cover rebuilt from both of its scans."""
        from contour.job.build.store import Store
        from demo.cover_job import complete_cover_job

        with tempfile.TemporaryDirectory() as folder:
            store = Store(Path(folder))
            for path in sorted((settings.VAR / "demo").glob("pump-cover-*.ply")):
                store.put_blob(path.read_bytes())
            return complete_cover_job(scans[0], scans[1], store)

    def _cover_scans(self, user: Any) -> list[str]:
        from demo.jobs import write_cover_scans

        folder = settings.VAR / "demo"
        paths = sorted(folder.glob("pump-cover-*.ply"))
        if len(paths) != 2:
            self.stdout.write("scanning the pump cover (virtually, once) …")
            paths = list(write_cover_scans(folder))
        blobs = []
        for path in sorted(paths):
            blobs.append(keep(user, path.read_bytes()))
            facts = inspect_scan(read_scan(path), 1.0).as_json()
            size = path.stat().st_size
            Upload.objects.create(owner=user, name=path.name, blob=blobs[-1], size=size, format="ply", facts=facts)
        return blobs
