"""What is kept: jobs and their revisions, uploads, and the tasks that work on them. Everything hangs on its owner."""

from __future__ import annotations

import uuid
from typing import Any

from django.conf import settings
from django.db import models
from django.utils import timezone

__all__ = ["CaliperLine", "Checkpoint", "Job", "JobProduct", "KeptFile", "Revision", "Task", "Upload"]


class Upload(models.Model):
    """A scan file that somebody brought in; `facts` in file units as if they were mm, once it has been read."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    name = models.CharField(max_length=200)
    blob = models.CharField(max_length=64)
    size = models.BigIntegerField()
    format = models.CharField(max_length=8, blank=True)
    facts = models.JSONField(null=True)
    created = models.DateTimeField(auto_now_add=True)


class KeptFile(models.Model):
    """Whose a file of the store is (see bench.blobs). The same bytes can be several people's; without an owner they are everybody's."""

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, null=True, on_delete=models.CASCADE)
    digest = models.CharField(max_length=64)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["digest", "owner"], name="a_file_is_somebodys_once")]


class Job(models.Model):
    """A part being rebuilt. `head` is what is shown, `tip` where redo leads; `version` grows with every move of head."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    version = models.PositiveIntegerField(default=0)
    head = models.ForeignKey("Revision", null=True, on_delete=models.PROTECT, related_name="+")
    tip = models.ForeignKey("Revision", null=True, on_delete=models.PROTECT, related_name="+")
    card = models.JSONField(default=dict)  # what the shelf shows of it (see bench.cards): no result is read for that
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    class Meta:
        ordering = ["-changed"]


class Revision(models.Model):
    """One state of a job's recipe; never changed, never deleted."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="revisions")
    parent = models.ForeignKey("self", null=True, on_delete=models.PROTECT)
    label = models.CharField(max_length=200)
    recipe = models.TextField()
    created = models.DateTimeField(auto_now_add=True)


class Checkpoint(models.Model):
    """A state that somebody gave a name, to come back to."""

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="checkpoints")
    revision = models.ForeignKey(Revision, on_delete=models.PROTECT, related_name="+")
    name = models.CharField(max_length=200)
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created"]


class TaskRows(models.QuerySet):
    """Rows of tasks. Whatever is changed of one is seen by `changed`, but for signs of life: whoever asks again compares that."""

    def update(self, **fields: Any) -> int:
        if set(fields) - {"heartbeat", "wanted"}:
            fields.setdefault("changed", timezone.now())
        return super().update(**fields)

    def in_turn(self) -> TaskRows:
        """What somebody looks at first, the last looked at before all others; then what was asked for, and at last builds of jobs
        that nobody has open; the longest waiting first."""
        unseen = models.Case(models.When(kind="build", then=1), default=0)
        return self.order_by(models.F("wanted").desc(nulls_last=True), unseen, "created")


class Task(models.Model):
    """Work in the background. Only a queued row may be claimed; a running one must show a heartbeat."""

    class Status(models.TextChoices):
        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        FAILED = "failed"
        CANCELLED = "cancelled"

    id = models.UUIDField(primary_key=True, default=uuid.uuid4)
    owner = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE)
    job = models.ForeignKey(Job, null=True, on_delete=models.CASCADE, related_name="tasks")
    revision = models.ForeignKey(Revision, null=True, on_delete=models.CASCADE, related_name="tasks")
    upload = models.ForeignKey(Upload, null=True, on_delete=models.CASCADE, related_name="tasks")
    kind = models.CharField(max_length=20)
    payload = models.JSONField(default=dict)
    status = models.CharField(max_length=10, choices=Status.choices, default=Status.QUEUED, db_index=True)
    progress = models.JSONField(default=dict)
    result = models.TextField(blank=True)
    problem = models.JSONField(null=True)
    cancel = models.BooleanField(default=False)
    attempts = models.PositiveSmallIntegerField(default=0)
    claim = models.UUIDField(null=True)
    heartbeat = models.DateTimeField(null=True)
    wanted = models.DateTimeField(null=True)  # when somebody last looked at what it will show
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    objects = TaskRows.as_manager()


class JobProduct(models.Model):
    """A product that some build of the job made: its key opens nothing to anybody else."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="products")
    key = models.CharField(max_length=60)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["job", "key"], name="a_product_is_a_jobs_once")]


class CaliperLine(models.Model):
    """A value that a caliper has sent and no reading has taken yet."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="caliper_lines")
    take = models.JSONField()
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["id"]
