"""Where the demo lies: a made-up session for the deck crew of a night ferry, with its takes. It is opened as a copy."""

from pathlib import Path

import nafas

DEMO = Path(nafas.__file__).parent / "demo" / "night-ferry.nafas"
