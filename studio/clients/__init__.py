"""Pictures shown to clients by a link: what they may see, and what they wish."""
