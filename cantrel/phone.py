"""Serve to phones on the same network: ``python -m cantrel.phone``.

A phone keeps pages without a signal only where it trusts the machine. So this makes a local authority and a certificate
for this machine's address, serves the program by https with it, and in the clear nothing but the page that leads
through trusting it. What may be set: CANTREL_PHONE_HOST, CANTREL_PHONE_PORT, CANTREL_TRUST_PORT.
"""

from __future__ import annotations

import asyncio
import os
import socket
import ssl
import subprocess
import sys
from pathlib import Path

import segno

from cantrel import lan

VAR = Path(os.environ.get("CANTREL_VAR", Path(__file__).resolve().parent.parent / "var"))
CHUNK = 65536
PAGE = Path(__file__).with_name("trust.htm")


def mark(certificate: Path) -> str:
    """Fingerprint of a certificate as phones show it."""
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes

    digest = x509.load_pem_x509_certificate(certificate.read_bytes()).fingerprint(hashes.SHA256())
    return ":".join(f"{byte:02X}" for byte in digest[:12]) + ":…"


async def _pipe(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
    try:
        while part := await reader.read(CHUNK):
            writer.write(part)
            await writer.drain()
    except (ConnectionError, ssl.SSLError):
        pass
    finally:
        writer.close()


async def _through(reader: asyncio.StreamReader, writer: asyncio.StreamWriter, port: int) -> None:
    """One connection: what is said in secret goes on to the program on this machine."""
    try:
        inner_reader, inner_writer = await asyncio.open_connection("127.0.0.1", port)
    except OSError:
        writer.close()
        return
    await asyncio.gather(_pipe(reader, inner_writer), _pipe(inner_reader, writer))


async def _tell(reader: asyncio.StreamReader, writer: asyncio.StreamWriter, certificate: Path) -> None:
    """One request in the clear: the authority's certificate, else the page that leads through trusting it."""
    try:
        first = await asyncio.wait_for(reader.readline(), 10)
        while (await asyncio.wait_for(reader.readline(), 10)).strip():
            pass
        path = [*first.split(), b"", b""][1]
        if path == b"/authority.crt":
            kind, content = "application/x-x509-ca-cert", certificate.read_bytes()
        else:
            program = lan.over_tls()
            page = PAGE.read_text(encoding="utf-8").format(
                program=program, code=lan.code(program), mark=mark(certificate)
            )
            kind, content = "text/html; charset=utf-8", page.encode()
        head = f"HTTP/1.1 200 OK\r\nContent-Type: {kind}\r\nContent-Length: {len(content)}\r\nConnection: close\r\n\r\n"
        writer.write(head.encode() + content)
        await writer.drain()
    except (TimeoutError, ConnectionError, ValueError):
        pass
    finally:
        writer.close()


async def front(port: int, found: lan.Certificates) -> None:
    """Listen for phones, in secret for the program and in the clear for what has to be trusted."""
    secret = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    secret.load_cert_chain(found.certificate, found.key)
    program = await asyncio.start_server(lambda r, w: _through(r, w, port), "0.0.0.0", lan.TLS_PORT, ssl=secret)
    trust = await asyncio.start_server(lambda r, w: _tell(r, w, found.authority), "0.0.0.0", lan.TRUST_PORT)
    async with program, trust:
        await asyncio.gather(program.serve_forever(), trust.serve_forever())


def _free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def surroundings(port: int) -> dict[str, str]:
    """What the program is told: its port, and by which names it is reached."""
    host = lan.address()
    origins = [f"https://{name}:{lan.TLS_PORT}" for name in (host, "localhost", "127.0.0.1")]
    hosts = f"127.0.0.1,localhost,{host}"
    return {**os.environ, "CANTREL_PORT": str(port), "CANTREL_HOSTS": hosts, "CANTREL_ORIGINS": ",".join(origins)}


def main() -> None:
    """Serve until told to stop."""
    os.umask(0o077)
    found, port = lan.certificates(VAR / "phone", lan.address()), _free_port()
    program = subprocess.Popen([sys.executable, "-m", "cantrel.serve"], env=surroundings(port))
    print(f"For phones on this network, once: {lan.to_trust()}\nthen: {lan.over_tls()}\nmark: {mark(found.authority)}")
    segno.make(lan.to_trust(), error="m").terminal(compact=True)
    sys.stdout.flush()
    try:
        asyncio.run(front(port, found))
    except KeyboardInterrupt:
        pass
    finally:
        program.terminate()
        program.wait(30)


if __name__ == "__main__":
    main()
