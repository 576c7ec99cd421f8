"""The rules of the job: plain Python, typed, no framework, no input or output."""
