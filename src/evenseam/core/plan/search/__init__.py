"""The search for a way through a track: what every join costs, the track as a graph, the cheapest ways of a length."""
