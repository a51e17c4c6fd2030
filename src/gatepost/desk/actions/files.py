# SPDX-License-Identifier: GPL-3.0-or-later
"""What can be told of a file's kind when one is asked for."""

TABLES = "Tables (*.csv *.txt *.tsv);;All files (*)"
PROGRAMS = "Programs (*.nc *.ngc *.tap *.gcode *.txt);;All files (*)"
DRAWINGS = "Drawings (*.svg *.dxf)"
PHOTOS = "Photos (*.jpg *.jpeg *.png)"
PDF = "PDF (*.pdf)"
JOBS = "Gatepost jobs (*.gatepost)"
ART = "Drawings, pictures and meshes (*.svg *.dxf *.png *.jpg *.jpeg *.stl)"
PNG = "Pictures (*.png)"
FACES = "Faces for lettering (*.ttf *.otf *.woff)"
