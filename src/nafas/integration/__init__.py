"""At home on the desktop: menu entry, icons, file types, software data, man page and completion of the shell."""
