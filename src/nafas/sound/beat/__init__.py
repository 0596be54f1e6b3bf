"""Tempo and beats of a recording, and the counts against them."""
