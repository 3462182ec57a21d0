"""Pages: Debian's Chromium, with time and network in Vexel's hands."""
