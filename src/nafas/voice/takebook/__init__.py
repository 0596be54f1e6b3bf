"""The take book: a folder of clips with its index; how it is read, edited and added to."""
