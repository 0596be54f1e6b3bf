"""The page of the score: lines of breath, words and strokes, painted from its layout."""
