"""Long work, off the server's process: listening to tracks and rendering files on dask.distributed."""
