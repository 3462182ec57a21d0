"""Modules of the interface, bundled and loaded in an empty page of the browser."""

import subprocess
from pathlib import Path

from tests.helpers import scratch
from tests.screens.base import chromium

UI = Path(__file__).parents[2] / "ui"
BUILD = """import { build } from 'vite';
const [entry, outDir] = process.argv.slice(1);
await build({ configFile: false, logLevel: 'error', publicDir: false,
  define: { 'process.env.NODE_ENV': '"production"' },
  build: { outDir, minify: false, lib: { entry, formats: ['iife'], name: 'ui', fileName: () => 'ui.js' } } });"""


def bundled_page(case, modules, answer="{}", more=""):
    """A page in which `ui` holds the modules by their names; any request is answered with the same JSON."""
    folder = scratch(case)
    entry = folder / "ui.ts"
    entry.write_text("".join(f'export * as {n} from "{UI}/src/{place}";\n' for n, place in modules.items()) + more)
    subprocess.run(["node", "--input-type=module", "-e", BUILD, entry, folder], cwd=UI, check=True)
    page = chromium().new_page()
    page.route("http://ui.test/**", lambda route: route.fulfill(body=answer, content_type="application/json"))
    page.goto("http://ui.test/")
    page.add_script_tag(path=folder / "ui.js")
    return page
