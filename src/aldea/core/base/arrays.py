"""Array types: every number that is worked on in bulk is a float64, every instant an int64."""

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


IntArray = NDArray[np.int64]
BoolArray = NDArray[np.bool_]
