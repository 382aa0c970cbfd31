"""Who may come in: accounts, sessions, what each of them prefers."""
