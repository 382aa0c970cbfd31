"""Errors a person can read. Every message is one plain sentence that says what is wrong."""


class RetouchError(Exception):
    """Base of all errors this package raises on purpose; ``str(error)`` is fit to be shown."""


class PictureError(RetouchError):
    """A file that can't be read or written as a picture."""


class EditError(RetouchError):
    """An edit (passes, touches, settings) that breaks the declared form or ranges."""


class FacesMissing(RetouchError):
    """An edit hangs on the faces of its picture, and what is known of them is missing."""


class ViewError(RetouchError):
    """A view that can't be shown: no size, or a scale at which nothing would be seen."""


class Cancelled(RetouchError):
    """The caller no longer wants the result that was being computed."""
