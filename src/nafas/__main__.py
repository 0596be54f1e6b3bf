"""`python -m nafas` is the `nafas` command."""

import sys

from nafas.cli import main

sys.exit(main())
