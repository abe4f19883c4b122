"""The day: how long work takes, who waits for whom, and what it costs."""
