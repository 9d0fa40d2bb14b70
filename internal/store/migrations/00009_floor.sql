-- +goose Up

-- When the shop is open, who works when at what, and how many of each place there are.
alter table shop add column floor jsonb check (jsonb_typeof(floor) = 'object');

-- Somebody a step is kept for.
alter table job_steps add column kept_for uuid references people;

-- The plan on the wall: one for the shop. It can be made again from the open jobs at any time; it is kept so that
-- little of it moves when it is.
create table wall (
  id      smallint primary key default 1 check (id = 1),
  version integer not null default 1 check (version > 0),
  made_at timestamptz not null,
  of      text not null,        -- what it was made of: another means that something changed
  until   timestamptz not null, -- when the clock alone makes it untrue
  plan    jsonb not null
);

-- +goose Down
drop table wall;
alter table job_steps drop column kept_for;
alter table shop drop column floor;
