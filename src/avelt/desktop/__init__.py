"""Avelt at home on a Linux desktop: menu entry, kinds of files, icons, thumbnails, manual, completion."""
