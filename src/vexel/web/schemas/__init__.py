"""What goes over the wire, as pydantic models: the OpenAPI document comes from these."""
