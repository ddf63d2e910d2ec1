"""What is said of measures: one file a measure, named like it. ``words`` gathers them."""
