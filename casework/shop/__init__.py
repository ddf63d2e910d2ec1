"""The shop: who works there, with which role, how it verifies; the way in for new people."""
