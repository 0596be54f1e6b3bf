"""The demo: a made-up session for the deck crew of a night ferry, and the take book that speaks it."""

from nafas.library.demo import DEMO

SESSION = DEMO
FOLDER = SESSION.parent
