"""The scene as VTK renders it: actors, light, shadows and how each pass draws them."""
