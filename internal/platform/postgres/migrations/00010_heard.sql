-- +goose Up

-- Changes of chapters are kept with those of captions. Their language is '', and they are the chapters that
-- people kept, by capture and on its clock, or JSON's null where those that are proposed stood there.
alter table caption_change rename to word_change;

-- Words that a captioner thinks may have been said, for a search: those that it chose, and others.
create table heard (
  capture_id uuid not null,
  language text not null,
  start_ms bigint not null,
  end_ms bigint not null,
  word text not null,
  share real not null, -- how likely it is, from 0 to 1
  foreign key (capture_id, language) references caption on delete cascade
);
create index on heard (capture_id, language, start_ms);

-- +goose Down
drop table heard;
delete from word_change where language = '';
alter table word_change rename to caption_change;
