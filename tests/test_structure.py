"""The shape of the code: short modules, short functions, templates that keep their promises."""

import ast
import re
import unittest
from pathlib import Path

from lepidos.store.schema import TABLES

ROOT = Path(__file__).parents[1] / "lepidos"
MAX_MODULE, MAX_FUNCTION, MAX_LINE_LENGTH = 300, 60, 120
# With the reason beside it in the code.
LONG = {"anneal"}


class LengthTest(unittest.TestCase):
    def test_no_module_and_no_function_is_long(self) -> None:
        paths = [p for layer in ("core", "stations") for p in (ROOT / layer).rglob("*.py")]
        self.assertGreater(len(paths), 80)
        for path in paths:
            text = path.read_text("utf-8")
            with self.subTest(module=str(path.relative_to(ROOT))):
                self.assertLessEqual(text.count("\n"), MAX_MODULE)
            for node in ast.walk(ast.parse(text)):
                if isinstance(node, ast.FunctionDef) and node.name not in LONG:
                    with self.subTest(module=str(path.relative_to(ROOT)), function=node.name):
                        length = (node.end_lineno or 0) - node.lineno + 1
                        self.assertLessEqual(length, MAX_FUNCTION)


class PortsTest(unittest.TestCase):
    def test_only_the_devices_know_their_stand_ins(self) -> None:
        asking = re.compile(r"isinstance\([^)]*Simulated")
        found = [
            str(path.relative_to(ROOT))
            for path in ROOT.rglob("*.py")
            if "devices" not in path.relative_to(ROOT).parts[:1]
            and asking.search(path.read_text("utf-8"))
        ]
        self.assertEqual(found, [])


class TemplateTest(unittest.TestCase):
    def test_no_line_of_a_template_is_longer_than_a_person_can_review(self) -> None:
        paths = sorted((ROOT / "web" / "templates").rglob("*.html"))
        self.assertGreater(len(paths), 30)
        for path in paths:
            for number, line in enumerate(path.read_text("utf-8").splitlines(), 1):
                if len(line) > MAX_LINE_LENGTH:
                    self.fail(f"{path.name}:{number} has {len(line)} characters")


class WordsTest(unittest.TestCase):
    def test_code_screens_and_documents_keep_to_plain_words(self) -> None:
        """Turns of phrase that the glossary gives another word for."""
        odd = re.compile(
            r"\bwork(s|ed)? out\b|\banew\b|\bway back of\b|” is no \w|\b(check|control) signs?\b"
            r"|\b([Mm]inutes|grams|g|kg|dots?|readings?) an? (kilogram|fish|minute|second|bag)\b"
            r"|\bbotulin\b|:\.\d%}"  # a percentage has a space before its sign: `format_percent`
        )
        paths = [
            *(p for kind in ("py", "html", "toml") for p in ROOT.rglob(f"*.{kind}")),
            *(ROOT / "web/static").glob("js/*.js"),
            *ROOT.parent.glob("docs/**/*.md"),
            ROOT.parent / "README.md",
        ]
        self.assertGreater(len(paths), 500)
        found = [
            f"{path.relative_to(ROOT.parent)}:{number}: {match[0]}"
            for path in paths
            for number, line in enumerate(path.read_text("utf-8").splitlines(), 1)
            if path.name != "glossary.md" and (match := odd.search(line))
        ]
        self.assertEqual(found, [])


class DocumentTest(unittest.TestCase):
    """A module that moves takes what the documents say of it along."""

    NAMES = re.compile(r"`([a-z][\w./]*[./][\w./]*)`")
    NOT_YET = ("lepidos/store/migrations/0021_glazed.sql",)  # a worked example's

    def test_what_a_document_names_is_there(self) -> None:
        documents = [ROOT.parent / f"docs/{name}.md" for name in ("architecture", "changing")]
        documents += sorted((ROOT.parent / "docs/decisions").glob("*.md"))
        # as from the top, so that every name is the end of a path
        paths = [
            f"/{path.relative_to(ROOT.parent)}"
            for place in ("lepidos", "tests", "bench", "scripts", "docs")
            for path in (ROOT.parent / place).rglob("*")
            if not {"node_modules", "__pycache__"} & set(path.parts)
        ] + [f"/{path.name}" for path in ROOT.parent.iterdir()]
        named = [(doc, name) for doc in documents for name in self.NAMES.findall(doc.read_text())]
        self.assertGreater(len(named), 120)
        lost = [
            f"{doc.name}: {name}"
            for doc, name in named
            if name not in self.NOT_YET and not self._is_there(name.rstrip("/"), paths)
        ]
        self.assertEqual(lost, [])

    @staticmethod
    def _is_there(name: str, paths: list[str]) -> bool:
        """A file or folder, or what a module defines."""
        if any(path.endswith((f"/{name}", f"/{name}.py")) for path in paths):
            return True
        module, _, defined = name.rpartition(".")
        modules = [p for p in paths if p.endswith(f"/{module.replace('.', '/')}.py")]
        line = re.compile(rf"^(def |class )?{defined}\b", re.MULTILINE)
        return any(line.search((ROOT.parent / path[1:]).read_text("utf-8")) for path in modules)


class StoreTest(unittest.TestCase):
    def test_above_the_store_nothing_queries_and_no_row_is_written(self) -> None:
        rows = {model.__name__ for model in TABLES}
        paths = [p for layer in ("stations", "web") for p in (ROOT / layer).rglob("*.py")]
        self.assertGreater(len(paths), 60)
        for path in paths:
            for node in ast.walk(ast.parse(path.read_text("utf-8"))):
                if not isinstance(node, ast.Call) or not isinstance(node.func, ast.Attribute):
                    continue
                of = getattr(node.func.value, "id", "")
                where = f"{path.name}:{node.lineno}"
                self.assertNotIn(node.func.attr, {"save", "delete_instance"}, where)
                self.assertNotIn(of, rows, f"{where}: {of}.{node.func.attr}")


class DocstringTest(unittest.TestCase):
    def test_a_core_function_says_what_it_raises(self) -> None:
        checked = 0
        for path in (ROOT / "core").rglob("*.py"):
            for node in ast.parse(path.read_text("utf-8")).body:
                if not isinstance(node, ast.FunctionDef) or node.name.startswith("_"):
                    continue
                if any(self._may_raise(inner) for inner in ast.walk(node)):
                    checked += 1
                    with self.subTest(module=path.stem, function=node.name):
                        self.assertIn("Raises", ast.get_docstring(node) or "")
        self.assertGreater(checked, 30)

    @staticmethod
    def _may_raise(node: ast.AST) -> bool:
        if isinstance(node, ast.Call):
            return getattr(node.func, "id", "").startswith("require")
        return isinstance(node, ast.Raise)


class NameTest(unittest.TestCase):
    def test_a_station_has_the_same_name_in_every_layer(self) -> None:
        stations = {p.name for p in (ROOT / "stations").iterdir() if p.is_dir()}
        pages = {p.name for p in (ROOT / "web").iterdir() if p.is_dir()}
        for name in ("trips", "deck", "table", "pack", "freezer", "yieldbook", "guide"):
            with self.subTest(name=name):
                self.assertIn(name, stations)
                self.assertIn(name, pages)


if __name__ == "__main__":
    unittest.main()
