"""Today's cases and starting one."""
