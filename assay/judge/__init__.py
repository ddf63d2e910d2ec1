"""From readings to grades, and from grades to what the decision rules say."""
