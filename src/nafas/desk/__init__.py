"""The window. The only room that may import Qt; it shows and asks, and computes nothing."""
