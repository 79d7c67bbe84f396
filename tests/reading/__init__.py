"""Every reading type, on the bench, in a browser; run beside the other browser tests."""
