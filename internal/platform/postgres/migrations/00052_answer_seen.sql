-- +goose Up
-- Whether who asked has seen the answer that was written; answers from before are old news.
alter table chat_line add answer_seen boolean not null default true;
alter table chat_line alter answer_seen set default false;
create index on chat_line (person_id) where answer <> '' and not answer_seen;
create index on chat_line (lecture_id) where state in ('open', 'taken', 'put_off');

-- +goose Down
alter table chat_line drop answer_seen;
