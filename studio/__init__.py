"""The web application: stores portraits and edits, has the core operate on them, and serves the window."""
