-- +goose Up
-- Names are found whatever their case and accents.
create extension if not exists unaccent;
-- +goose StatementBegin
create function folded(text) returns text language sql immutable strict parallel safe
  return public.unaccent('public.unaccent', lower($1));
-- +goose StatementEnd

-- +goose Down
drop function folded(text);
drop extension unaccent;
