"""What several tests need: scenes in the database, pictures, a browser."""
