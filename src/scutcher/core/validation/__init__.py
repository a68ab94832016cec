"""What holds for samples that were left out: segments, cross-validation, evidence."""
