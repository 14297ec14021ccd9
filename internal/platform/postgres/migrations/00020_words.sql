-- +goose Up
-- What the trade calls them: what someone is in a course is their role, what a track holds is video and audio.
alter table membership rename column part to role;
alter table guest rename column part to role;
alter table track rename column pictures to video;
alter table track rename column sound to audio;

-- +goose Down
alter table track rename column audio to sound;
alter table track rename column video to pictures;
alter table guest rename column role to part;
alter table membership rename column role to part;
