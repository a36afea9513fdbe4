"""What files say, in and out."""
