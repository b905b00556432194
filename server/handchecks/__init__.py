"""What people saw, heard or tried at a device: looks by eye where nothing can be measured, and functions."""
