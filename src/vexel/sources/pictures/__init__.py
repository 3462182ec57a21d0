"""Picture files: images, numbered sequences, SVG, and their mixing in linear light."""
