"""``python -m bench …``: Django's own commands."""

import os
import sys

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "bench.settings")

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    execute_from_command_line(["bench", *sys.argv[1:]])
