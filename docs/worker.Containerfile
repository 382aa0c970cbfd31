# A worker for runs: the core and Dask, without the web application.
#   podman build -f docs/worker.Containerfile -t mellow-glass-worker .
#   podman run --rm mellow-glass-worker tcp://10.0.0.1:8786
FROM docker.io/library/python:3.11-slim-bookworm
RUN apt-get update && apt-get install -y --no-install-recommends libgl1 libegl1 libglib2.0-0 \
    && rm -rf /var/lib/apt/lists/*
WORKDIR /app
COPY requirements/base.txt requirements/face.txt requirements/
RUN pip install --no-cache-dir --require-hashes -r requirements/base.txt \
    && pip install --no-cache-dir --no-deps -r requirements/face.txt
COPY retouch retouch
RUN python -m retouch.warm && useradd --create-home worker
USER worker
ENTRYPOINT ["python", "-m", "dask", "worker", "--nthreads", "1", "--memory-limit", "3GB", "--no-nanny"]
