# Calm Tin for a home server. Not built where Calm Tin is developed: read it before you trust it.
#   docker build -t calmtin . && docker run -p 127.0.0.1:8000:8000 -v calmtin:/book calmtin
FROM python:3.11-slim
WORKDIR /build
COPY . .
RUN pip install --no-cache-dir --require-hashes -r requirements/run.txt \
 && pip install --no-cache-dir hatchling==1.33.0 \
 && python -m hatchling build -t wheel \
 && pip install --no-cache-dir --no-deps dist/*.whl \
 && rm -rf /build \
 && useradd --create-home maker && mkdir /book && chown maker /book
USER maker
WORKDIR /home/maker
ENV CALMTIN_DATA=/book
EXPOSE 8000
# One maker on one machine; docs/serving.md says how to put https in front of it.
CMD ["calmtin", "serve", "--host", "0.0.0.0"]
