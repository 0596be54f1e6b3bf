"""What other programs and people are given: captions, chapters, labels, cue lists, MIDI, packed sessions."""
