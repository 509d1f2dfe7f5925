"""``python -m contour.cli …``: the core's commands without the jobs' database."""

import sys

from contour.cli import main

sys.exit(main())
