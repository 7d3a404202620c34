"""Clips drawn apart: planned, drawn and spoilt without anything that the core was built with.

A generator that shares the core's own idea of a bounce cannot tell where that idea is wrong. This one knows the faults
from their definitions alone and the looks from what a class hands in.
"""
