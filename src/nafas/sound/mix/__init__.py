"""The mix: clips in their places, ducking, and what is monitored of it."""
