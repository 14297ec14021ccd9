-- +goose Up

-- What of a track came and cannot be watched, although it was encoded anew: what tally.Difference says.
alter table track add column differs jsonb;

-- +goose Down

alter table track drop column differs;
