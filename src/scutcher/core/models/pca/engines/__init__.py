"""Ways to find components: one file each, all of the same quantities."""
