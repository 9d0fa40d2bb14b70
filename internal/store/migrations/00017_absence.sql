-- +goose Up
-- When somebody is not here though their hours say so: gone home, coming later, away for a while.
create table absences (
  id uuid primary key,
  person_id uuid not null references people,
  from_at timestamptz not null,
  until_at timestamptz not null,
  noted_at timestamptz not null,
  noted_by uuid not null references people,
  check (until_at > from_at)
);
create index on absences (until_at);

-- +goose Down
drop table absences;
