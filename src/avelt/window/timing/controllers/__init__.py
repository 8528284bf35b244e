"""What the parts of Timing ask for becomes edits here. Each controller is handed the context and the parts it wires."""
