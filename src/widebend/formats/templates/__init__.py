"""Templates as files at true size: PDF on one sheet or tiled over several, SVG, DXF."""
