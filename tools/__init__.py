"""For those who work on Kessa: a server with demo data, pictures, benchmarks' helper."""
