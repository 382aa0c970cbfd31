"""Sheets that go with a picture: what was done to it, before and after, many portraits at once."""
