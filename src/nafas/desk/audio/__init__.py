"""What is played and recorded, and through what."""
