# The program from the same lock as everywhere else; its data live on a volume at /data.
FROM docker.io/library/python:3.11-slim-bookworm
WORKDIR /app
COPY requirements.lock .
RUN python -m pip install --no-cache-dir --require-hashes -r requirements.lock \
    && useradd --uid 10001 --no-create-home cantrel && mkdir /data && chown cantrel /data
COPY . .
USER cantrel
ENV CANTREL_VAR=/data CANTREL_HOST=0.0.0.0 CANTREL_PORT=8000 PYTHONUNBUFFERED=1
VOLUME /data
EXPOSE 8000
HEALTHCHECK --interval=30s --timeout=5s --start-period=90s \
    CMD ["python", "-c", "import urllib.request as u; u.urlopen('http://127.0.0.1:8000/health/', timeout=4)"]
CMD ["sh", "-c", "python manage.py migrate -v0 && python manage.py collectstatic --noinput -v0 && python -m treecore warm && exec python -m cantrel.serve"]
