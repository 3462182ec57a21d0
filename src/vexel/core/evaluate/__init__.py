"""From the document to every frame: sampled lanes and cameras, the plan, frame recipes and their keys."""
