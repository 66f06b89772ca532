"""Sound in and out: decoding, encoding, levels, silence, drawing peaks. Nothing is loaded before it is asked for."""
