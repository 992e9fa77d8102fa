"""HTTP (docs/http.md): one router file a resource, thin; the core computes, the store keeps."""

from anabasis.server.app import LOOPBACK, create_app, description

__all__ = ["LOOPBACK", "create_app", "description"]
