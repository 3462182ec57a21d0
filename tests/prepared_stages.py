"""Imported where servers are forked from: all of them have their stages of one fork server."""

from vexel.workers.fork_server import start_fork_server

start_fork_server()
