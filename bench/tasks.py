"""The queue's consumer looks for its tasks in modules of this name; nobody else has to load what they need."""

from bench.remote import compute
from bench.work import perform

__all__ = ["compute", "perform"]
