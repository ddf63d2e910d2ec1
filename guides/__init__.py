"""Drafted guides: checks that the verified pairs' photographs propose, until a person takes or rejects them."""
