"""What is done about runs: begun, carried out by workers, looked at, accepted."""
