-- +goose Up

-- What the list of due bikes shows of each, kept as the text it is answered with: jsonb is written out anew at
-- each look, number by number.
alter table bike_due
  alter column tasks drop default,
  alter column tasks type json,
  alter column tasks set default '{}',
  add column listed    json not null default '[]', -- of the tasks, what is soon or worse or done in the same visit
  add column visit     json not null default '[]', -- the codes of these last
  add column saved_min int  not null default 0;
update bike_due set asked = asked + 1;

-- With more of what bikes are found by to look at, the planner sees which words are rare and lets their index
-- serve; without, it takes every word for common and reads the table.
alter table bikes alter column search set statistics 1000;

-- +goose Down
alter table bikes alter column search set statistics -1;
alter table bike_due
  drop column listed, drop column visit, drop column saved_min,
  alter column tasks drop default,
  alter column tasks type jsonb,
  alter column tasks set default '[]';
