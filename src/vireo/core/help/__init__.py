"""Help: pages made from what is registered, and topics written by hand."""

from vireo.core.help.pages import Page, Section, pages

__all__ = ["Page", "Section", "pages"]
