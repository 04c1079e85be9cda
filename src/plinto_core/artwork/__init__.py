"""Pictures in and out: opened with suspicion, streamed in bands, measured, shown."""
