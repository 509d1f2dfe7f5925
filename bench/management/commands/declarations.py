"""What the core declares of itself, as the API publishes it: for the front end's tests, which so stand on the real thing."""

from __future__ import annotations

import json
from typing import Any

from django.core.management import BaseCommand
from django.http import HttpRequest

from bench.api.declarations import declarations


class Command(BaseCommand):
    help = "print the declarations of kinds, references, units and problems as JSON"

    def handle(self, *args: Any, **options: Any) -> None:
        said = declarations(HttpRequest()).model_dump(mode="json")
        self.stdout.write(json.dumps(said, indent=1, sort_keys=True, ensure_ascii=False))
