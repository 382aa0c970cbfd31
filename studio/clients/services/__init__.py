"""Making links, the pictures behind them, and what is done by whoever opens one."""
