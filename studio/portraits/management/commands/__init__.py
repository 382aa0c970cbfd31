"""Commands of `manage.py`, one module each."""
