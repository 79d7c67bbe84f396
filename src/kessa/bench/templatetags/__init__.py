"""What the drawn instruments compute their places with."""
