"""Reports: what stands on paper."""
