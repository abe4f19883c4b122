"""Serve on this machine: ``python -m cantrel.serve``."""

import os

from waitress import serve

from cantrel.wsgi import application

HOST, PORT = "127.0.0.1", int(os.environ.get("CANTREL_PORT", "8000"))

if __name__ == "__main__":
    print(f"Cantrel is on http://{HOST}:{PORT}/ (stop with Ctrl-C)", flush=True)
    serve(application, host=HOST, port=PORT, threads=4, ident=None)
