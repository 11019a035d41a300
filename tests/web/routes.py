"""Which actions a route writes into the log, read from the source: its functions, and what those call."""

import ast
import inspect
import textwrap
from collections.abc import Callable, Iterator
from functools import cache
from types import ModuleType
from typing import Any

from lepidos.stations.base import context

Function = Callable[..., Any]


def actions_of(endpoint: Function) -> frozenset[str]:
    """The actions that a request to an endpoint may write."""
    return frozenset(_actions(inspect.unwrap(endpoint), frozenset()))


def _actions(function: Function, above: frozenset[Function]) -> Iterator[str]:
    for call, called in _calls(function):
        if called is context.run_idempotent:
            action = _value(call.args[2], function)
            yield action
        elif called not in above:
            yield from _actions(called, above | {function})


@cache
def _tree(function: Function) -> ast.AST:
    return ast.parse(textwrap.dedent(inspect.getsource(function)))


def _calls(function: Function) -> Iterator[tuple[ast.Call, Function]]:
    for node in ast.walk(_tree(function)):
        if isinstance(node, ast.Call):
            called = _value(node.func, function)
            if inspect.isfunction(called) and called.__module__.startswith("lepidos."):
                yield node, inspect.unwrap(called)


def _value(node: ast.AST, function: Function) -> Any:
    """What a name, a name of a module or a text stands for; None of anything else."""
    if isinstance(node, ast.Constant):
        return node.value
    if isinstance(node, ast.Name):
        around = inspect.getclosurevars(function).nonlocals  # what a use case's endpoint is made of
        return around.get(node.id, function.__globals__.get(node.id))
    if isinstance(node, ast.Attribute):
        owner = _value(node.value, function)
        return getattr(owner, node.attr, None) if isinstance(owner, ModuleType) else None
    return None
