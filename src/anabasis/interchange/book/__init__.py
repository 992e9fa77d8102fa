"""The site book: a design and what follows from it as one HTML file that prints well; the drawing by itself as SVG."""

from anabasis.interchange.book.drawing import cabling_svg
from anabasis.interchange.book.pages import site_book
from anabasis.interchange.book.picture import matrix_svg

__all__ = ["cabling_svg", "matrix_svg", "site_book"]
