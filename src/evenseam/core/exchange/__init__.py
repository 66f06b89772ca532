"""Open forms, one file each, by what they hold: marks of a picture, and tempi, bars and clicks."""
