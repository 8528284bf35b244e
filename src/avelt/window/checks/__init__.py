"""What is wrong with a project: the list, and looking for it in the background."""
