"""Jobs that make frames: runs, probes and proofs; and forecasts of what a run costs."""
