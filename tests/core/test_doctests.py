"""The examples in the core's docstrings run as tests."""

import doctest
import importlib
import pkgutil
import unittest

import lepidos.core


def load_tests(
    loader: unittest.TestLoader, tests: unittest.TestSuite, pattern: str
) -> unittest.TestSuite:
    for module in pkgutil.walk_packages(lepidos.core.__path__, "lepidos.core."):
        tests.addTests(doctest.DocTestSuite(importlib.import_module(module.name)))
    return tests
