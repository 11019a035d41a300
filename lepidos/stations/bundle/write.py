"""The whole log out, as one open file."""

from collections.abc import Iterator

from lepidos.exchange.data_package import Field, Resource, write_package
from lepidos.stations.base.context import AppContext
from lepidos.store.bundle.whole_log import TableShape, open_log, rows_of, shapes


def write_bundle(ctx: AppContext) -> Iterator[bytes]:
    """The log as it is when the first piece is asked for, piece by piece."""
    with open_log(ctx.store.path) as (schema, file):
        tables = {shape.name: shape for shape in shapes(file)}
        resources = [_resource(shape, tables) for shape in tables.values()]
        yield from write_package(resources, lambda name: rows_of(file, tables[name]), schema)


def _resource(shape: TableShape, tables: dict[str, TableShape]) -> Resource:
    return Resource(
        shape.name,
        shape.about,
        tuple(Field(c.name, c.kind, not c.nullable) for c in shape.columns),
        shape.key,
        tuple((column, table, tables[table].key) for column, table in shape.references),
    )
