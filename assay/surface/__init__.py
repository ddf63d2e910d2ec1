"""What a surface is like: its tone, its texture, what repeats in it, how it shines, what is scattered over it."""
