-- +goose Up
alter table track rename column likeness to fingerprint;
alter table place rename to resume_position;

-- +goose Down
alter table resume_position rename to place;
alter table track rename column fingerprint to likeness;
