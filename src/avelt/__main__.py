"""``python -m avelt``: the same as the ``avelt`` command."""

import sys

from avelt.cli import main

sys.exit(main())
