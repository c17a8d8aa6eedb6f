"""The constant that makes robust measures of spread comparable with a standard deviation."""

MAD_TO_SD = 1.482602218505602  # 1 / Φ⁻¹(3/4): the median absolute deviation of a normal spread of one
