"""Portraits and their edits: rows, gestures, views, deliveries."""
