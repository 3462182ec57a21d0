"""Work in the background of the server: runs, compiling, checks, proofs and forecasts."""
