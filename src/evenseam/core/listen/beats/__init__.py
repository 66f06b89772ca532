"""Beats, metre and beat one: heard, followed, counted and put into bars."""
