"""A file from anywhere (upload, watched folder, demo) on its way in: looked at in the sandbox, then opened by a job."""
