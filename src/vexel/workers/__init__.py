"""Who does the work: the stage process, the cluster, and the run controller."""
