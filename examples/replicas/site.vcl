# Two equal replicas behind one address. What a shared cache is told by CDN-Cache-Control (RFC 9213) counts for this cache.
vcl 4.1;

import directors;
import std;

probe ready {
  .url = "/health/ready";
  .interval = 500ms;
  .timeout = 400ms;
  .window = 3;
  .threshold = 2;
  .initial = 2;
}

backend one { .host = "127.0.0.1"; .port = "8081"; .probe = ready; }
backend two { .host = "127.0.0.1"; .port = "8082"; .probe = ready; }

sub vcl_init {
  new replicas = directors.round_robin();
  replicas.add_backend(one);
  replicas.add_backend(two);
}

sub vcl_recv {
  set req.backend_hint = replicas.backend();
  # Health and metrics are for this side of the cache.
  if (req.url ~ "^/health(/|$)") { return (synth(404)); }
  # One copy for each coding, and not for each way to ask for it.
  if (req.http.Accept-Encoding ~ "(^|,)\s*br\s*($|,|;\s*q=(1|0\.[0-9]*[1-9]))") {
    set req.http.Accept-Encoding = "br";
  } else if (req.http.Accept-Encoding ~ "(^|,)\s*gzip\s*($|,|;\s*q=(1|0\.[0-9]*[1-9]))") {
    set req.http.Accept-Encoding = "gzip";
  } else {
    unset req.http.Accept-Encoding;
  }
}

sub vcl_backend_fetch {
  # The next replica, where one does not answer.
  if (bereq.retries > 0) { set bereq.backend = replicas.backend(); }
}

sub vcl_backend_error {
  if (bereq.retries < 1) { return (retry); }
}

sub vcl_backend_response {
  if (beresp.http.CDN-Cache-Control ~ "(?i)(no-store|no-cache|private)") {
    set beresp.uncacheable = true;
    set beresp.ttl = 0s;
    return (deliver);
  }
  if (beresp.http.CDN-Cache-Control ~ "(?i)max-age=[0-9]+") {
    set beresp.ttl = std.duration(regsub(beresp.http.CDN-Cache-Control, "(?i).*max-age=([0-9]+).*", "\1s"), 0s);
    # Stale copies: while a new one is fetched, or while no replica answers.
    set beresp.grace = 0s;
    if (beresp.http.CDN-Cache-Control ~ "(?i)stale-if-error=[0-9]+") {
      set beresp.grace = std.duration(regsub(beresp.http.CDN-Cache-Control, "(?i).*stale-if-error=([0-9]+).*", "\1s"), 0s);
    }
    # What is kept after that is asked for with its validator.
    set beresp.keep = 1d;
    return (deliver);
  }
}

sub vcl_deliver {
  unset resp.http.CDN-Cache-Control;
}
