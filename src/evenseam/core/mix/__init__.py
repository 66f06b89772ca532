"""What a mixer sets: levels, fades and curves of cues and buses, as values that outlive every fit and every track."""
