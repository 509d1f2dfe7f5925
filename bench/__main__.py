"""``python -m bench …``: Django's own commands. What the system refuses at start is told in a sentence."""

import os
import sys

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "bench.settings")


def main() -> int:
    from django.core.exceptions import ImproperlyConfigured
    from django.core.management import execute_from_command_line
    from django.db import DatabaseError

    try:
        execute_from_command_line(["bench", *sys.argv[1:]])
    except KeyboardInterrupt:
        print("stopped", file=sys.stderr)
        return 130
    except (OSError, DatabaseError, ImproperlyConfigured) as error:
        from bench.faults import fault_of

        problem = fault_of(error)
        if problem is None:
            raise
        print(problem.line(), file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main())
