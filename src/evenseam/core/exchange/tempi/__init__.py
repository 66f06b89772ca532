"""Tempo maps, bars and clicks as files: of a picture, of a steady tempo, and of a fit as it is heard."""
