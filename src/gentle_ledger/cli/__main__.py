"""`python -m gentle_ledger.cli` runs a command."""

import sys

from gentle_ledger.cli.main import main

sys.exit(main())
