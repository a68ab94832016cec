"""Made-up data of a flax mill's intake laboratory, each set with the truth that was planted in it."""
