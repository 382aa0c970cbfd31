"""Requests received by Waitress: patient with slow clients, fair between addresses, closed to what is too large."""
