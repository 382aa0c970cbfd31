"""What is done to portraits: opened, worked on by the core, saved, shown, delivered."""
