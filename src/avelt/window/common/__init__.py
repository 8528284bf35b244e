"""What all stations use: the workspace, work in the background, keys of stations."""
