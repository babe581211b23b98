-- Finds some letters anywhere in a text by index; every user of a database of their own may switch it on.
CREATE EXTENSION IF NOT EXISTS pg_trgm;
