"""No two files need each other: whoever reads one can read on downwards and come to an end."""

from __future__ import annotations

import graphlib
import unittest

import grimp


class CirclesTest(unittest.TestCase):
    def test_no_file_needs_itself_by_way_of_others_not_even_by_an_import_within_a_function(self) -> None:
        graph = grimp.build_graph("motion", "nettlecap", exclude_type_checking_imports=True, cache_dir=None)
        needs = {m: graph.find_modules_directly_imported_by(m) for m in graph.modules if ".migrations." not in m}
        try:
            graphlib.TopologicalSorter(needs).prepare()
        except graphlib.CycleError as error:
            self.fail(f"a circle of files: {' needs '.join(reversed(error.args[1]))}")
