"""What judges a plan, or what could be had instead: costs, other bars, smallest changes, and forecasts."""
