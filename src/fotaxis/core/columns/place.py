"""A place that receives light, 8 numbers: place (m), normal, index of its coat (0: none), one over the mean share
that enters the coat.
"""

X, Y, Z = 0, 1, 2
NX, NY, NZ, COAT, ENTRY = 3, 4, 5, 6, 7
COUNT = 8
