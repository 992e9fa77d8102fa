"""HTTP (docs/http.md): one router file a resource, thin; the core computes, the store keeps."""

from anabasis.server.app import create_app

__all__ = ["create_app"]
