"""Work as jobs: asked for, queued, carried out by whoever is free, and ended in words whatever happens."""
