# Wahrheit in a container: podman build -t wahrheit . && podman run -p 8000:8000 -v wahrheit:/data wahrheit
FROM docker.io/library/python:3.11-slim
ENV PYTHONUNBUFFERED=1 WAHRHEIT_DATA=/data HOST=0.0.0.0 PORT=8000 PY=python OMP_NUM_THREADS=1
RUN apt-get update && apt-get install -y --no-install-recommends make curl && rm -rf /var/lib/apt/lists/* \
    && useradd --create-home --uid 10001 wahrheit && mkdir /data && chown wahrheit /data
WORKDIR /app
COPY requirements.lock .
RUN pip install --no-cache-dir --only-binary :all: --no-binary bagit --requirement requirements.lock
COPY --chown=wahrheit . .
USER wahrheit
VOLUME /data
EXPOSE 8000
HEALTHCHECK --interval=30s --timeout=5s --start-period=40s CMD curl -fsS -H "X-Forwarded-Proto: https" http://127.0.0.1:8000/health/ || exit 1
# DEMO=1: the demo; otherwise a counter of your own.
CMD ["sh", "-c", "if [ \"$DEMO\" = 1 ]; then exec sh bin/demo; else exec sh bin/serve; fi"]
