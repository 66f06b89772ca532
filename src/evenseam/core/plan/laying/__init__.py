"""What lays an answer out: cuts to the sample, the joined music on the output, what became of the hits, reasons of seams."""
