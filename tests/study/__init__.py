"""How well the decision rules decide, on populations drawn in numbers: see ``worlds`` for what is assumed."""
