"""From percentages to the bench: fill, weigh, split a pot, cool."""
