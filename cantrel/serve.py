"""Serve on this machine: ``python -m cantrel.serve``."""

import gc
import os

from waitress import serve

from cantrel.wsgi import application

HOST, PORT = "127.0.0.1", int(os.environ.get("CANTREL_PORT", "8000"))

if __name__ == "__main__":
    print(f"Cantrel is on http://{HOST}:{PORT}/ (stop with Ctrl-C)", flush=True)
    # What is loaded by now stays: the collector need not walk through it while a person drags a handle.
    gc.collect()
    gc.freeze()
    serve(application, host=HOST, port=PORT, threads=4, ident=None)
