"""How well the schools decide, on populations drawn in numbers: see ``worlds`` for what is assumed."""
