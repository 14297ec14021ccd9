-- +goose Up
-- A lesson that is recorded ahead and put into a week: it lies over the whole of that week, in no hall.
alter table lecture add column ahead boolean not null default false;
alter table lecture add check (unplanned or not ahead);

-- A capture with nobody invited: nobody can follow it while it runs.
alter table capture add column alone boolean not null default false;
