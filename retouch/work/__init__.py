"""What is done to an edit: by hand, by a routine, by a run. Pure functions without Django."""

from retouch.work.bench import Bench, Other, Refused, Result
from retouch.work.changes import Change, apply, compare, reverse
from retouch.work.operations import Operation, operation_from_data, perform

__all__ = [
    "Bench",
    "Change",
    "Operation",
    "Other",
    "Refused",
    "Result",
    "apply",
    "compare",
    "operation_from_data",
    "perform",
    "reverse",
]
