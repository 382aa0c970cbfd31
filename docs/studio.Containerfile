# The studio: interface, API, core, and the embedded database in the volume /data.
#   podman build -f docs/studio.Containerfile -t mellow-glass .
#   podman run --rm --network host -v mellow-glass-data:/data -e MELLOW_GLASS_HOSTS=retouch.example mellow-glass
# It listens on loopback alone: the web server in front shares its network.
FROM docker.io/library/node:20-bookworm-slim AS interface
WORKDIR /app/web
COPY web/package.json web/package-lock.json web/.npmrc ./
RUN npm ci --no-audit --no-fund
COPY web ./
RUN npm run build

FROM docker.io/library/python:3.11-slim-bookworm
RUN apt-get update && apt-get install -y --no-install-recommends libgl1 libegl1 libglib2.0-0 \
    && rm -rf /var/lib/apt/lists/*
WORKDIR /app
COPY requirements/base.txt requirements/face.txt requirements/
RUN pip install --no-cache-dir --require-hashes -r requirements/base.txt \
    && pip install --no-cache-dir --no-deps -r requirements/face.txt
COPY manage.py ./
COPY retouch retouch
COPY studio studio
COPY demo demo
COPY --from=interface /app/web/dist web/dist
RUN python -m retouch.warm && useradd --create-home studio && mkdir /data && chown studio /data
USER studio
VOLUME /data
ENV MELLOW_GLASS_DATA=/data MELLOW_GLASS_PRODUCTION=1
CMD ["sh", "-c", "python manage.py migrate --verbosity 0 && exec python -m studio.serving --port ${PORT:-8000}"]
