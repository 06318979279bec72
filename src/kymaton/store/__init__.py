"""Files: shows, autosave and recovery, exports."""
