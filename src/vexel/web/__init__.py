"""The server: blueprints, bodies, the session guard and progress by server-sent events."""
