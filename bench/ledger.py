"""The rows of tasks as those who compute them change them: by claim, so that nobody writes into what somebody else took over."""

from __future__ import annotations

import json
import uuid
from typing import Any

from django.conf import settings
from django.db import close_old_connections, transaction
from django.utils import timezone

from bench.blobs import claim as claim_file
from bench.cards import keep_card
from bench.compute import SHARED, Order
from bench.models import Job, JobProduct, Task, Upload
from contour.job.build.keys import keys_in_result
from contour.recipe.problem import Problem

__all__ = ["DatabaseLedger", "order_of", "shared_path"]

_WITH_FILE = ("step", "stl", "obj", "ply", "3mf", "compare", "scan-moved", "virtual-scan", "segment")


def shared_path(*parts: str) -> str:
    """A path of the shared folder as payloads say it."""
    return SHARED + "/".join(parts)


def order_of(row: Task) -> Order:
    """What whoever computes a row must know of it."""
    return Order(str(row.id), str(row.owner_id), row.kind, _payload(row), row.attempts)


def _payload(row: Task) -> dict[str, Any]:
    if row.kind == "inspect":
        assert row.upload is not None
        return {"path": shared_path("store", "blobs", row.upload.blob), "name": row.upload.name, "unit": "mm"}
    base = {"store": shared_path("store"), **row.payload}
    if row.kind == "build":
        assert row.revision is not None
        assert row.job is not None
        settings.THUMBNAILS.mkdir(exist_ok=True)
        return {**base, "recipe": row.revision.recipe, "thumbnail": shared_path("thumbnails", f"{row.job.id}.png")}
    if row.kind in _WITH_FILE:
        settings.DELIVERIES.mkdir(exist_ok=True)
        base["out"] = shared_path("deliveries", f"{row.id}.{row.kind}")
    return base


class DatabaseLedger:
    """A claimed row in the database (see :class:`bench.compute.Ledger`)."""

    def __init__(self, task: str, claim: uuid.UUID | str) -> None:
        self.task = task
        self.mine = Task.objects.filter(id=task, claim=claim)

    def beat(self) -> None:
        close_old_connections()
        self.mine.filter(status="running").update(heartbeat=timezone.now())

    def cancelled(self) -> bool:
        now = self.mine.values_list("cancel", flat=True).first()
        return now is None or now  # no row of mine: somebody else took it over

    def event(self, event: dict[str, Any]) -> None:
        fields: dict[str, Any] = {"heartbeat": timezone.now()}
        kind = event["event"]
        if kind == "geometry":
            fields["result"] = json.dumps(event["result"])
            self._made(keys_in_result(event["result"]))
        elif kind in ("fit-sample", "fit-whole"):
            current = json.loads(self.mine.values_list("result", flat=True).first() or "{}")
            fields["result"] = json.dumps({**current, "fit": event["fit"]})
            self._made([event["fit"]["key"]])
        elif kind != "step-done":
            fields["progress"] = event
        self.mine.update(**fields)

    def done(self, result: dict[str, Any]) -> None:
        with transaction.atomic():
            row = self.mine.select_related("owner", "upload").filter(status="running").first()
            if row is None:
                return
            if row.kind == "inspect":
                assert row.upload is not None
                Upload.objects.filter(id=row.upload.id).update(facts=result["facts"], format=result["format"])
            if row.kind == "virtual-scan":
                result = {**result, "upload": str(_practice_upload(row, result))}
            self.mine.update(status="done", result=json.dumps(result), progress={})
            if row.kind == "build":
                self._made(keys_in_result(result))
                job = Job.objects.select_related("head").get(id=row.job_id)
                if job.head_id == row.revision_id:
                    keep_card(job)
        self._over()

    def _made(self, keys: list[str]) -> None:
        """These products are the job's, before anybody is told of them."""
        job = self.mine.values_list("job", flat=True).first()
        if job is not None:
            JobProduct.objects.bulk_create((JobProduct(job_id=job, key=k) for k in set(keys)), ignore_conflicts=True)

    def ended(self) -> None:
        self.mine.update(status="cancelled")
        self._over()

    def _over(self) -> None:
        from bench.work import next_turn  # which hands rows to ledgers itself

        owner = Task.objects.filter(id=self.task).values_list("owner", flat=True).first()
        if owner is not None:
            next_turn(owner)

    def again(self) -> None:
        from bench.work import hand_over

        if self.mine.filter(status="running").update(status="queued"):
            hand_over(self.task, delay=0.05)

    def failed(self, problem: Problem) -> None:
        self.mine.update(status="failed", problem=problem.model_dump(mode="json"))
        self._over()


def _practice_upload(row: Task, result: dict[str, Any]) -> uuid.UUID:
    """A virtual scan is an upload like any other; what it is of is known, and nothing more."""
    for digest in (result["blob"], result["labels"]):
        claim_file(row.owner, digest)
    size = (settings.DELIVERIES / f"{row.id}.{row.kind}").stat().st_size
    upload = Upload.objects.create(
        owner=row.owner, name=result["name"], blob=result["blob"], size=size, format="ply", facts=result["facts"]
    )
    return upload.id
