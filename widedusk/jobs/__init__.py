"""Long work, done by a worker beside the web server. The queue lies in the same database."""
