"""From readings to grades, and from grades to what the schools say."""
