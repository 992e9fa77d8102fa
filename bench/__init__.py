"""Benchmarks: sites of any size, and what computing them costs beside plain yardsticks in the same run."""
