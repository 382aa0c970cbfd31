"""The commands, without the web application and without a database."""
