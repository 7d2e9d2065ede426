"""What smear, soft, grain and invented share: how much detail lies at each place, on a grid, and
where the same outline may be placed.

Each cell of the grid holds logarithms of energies of the *result*: the eigenvalues of the structure
tensor (Bigun and Granlund 1987) at
a fine and three middle scales, and the finest Laplacian, which in flat places is grain (Immerkaer
1996). Outside every region cells are
filled once from untouched pixels; the fill's cells see only pixels of the fill. Controls are the
fill's own cells placed over
untouched ones, so they cost nothing but arithmetic on the grid.
"""
