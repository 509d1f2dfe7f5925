"""Beside the web process, when workers run on other machines: writes what they report into the database."""

from __future__ import annotations

from typing import Any

from django.core.management import BaseCommand

from bench.remote import supervise


class Command(BaseCommand):
    help = "supervise workers on other machines by way of Redis"

    def handle(self, *args: Any, **options: Any) -> None:
        supervise()
