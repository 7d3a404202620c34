"""The worker's own part: what jobs do. Nothing here queues a job; ``takes.tasks`` does."""
