"""Template filters of the application."""
