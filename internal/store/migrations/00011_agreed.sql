-- +goose Up

-- What was agreed with a customer is a fact, with who agreed on it and when; of older ones that is not known.
alter table jobs
  add column agreed_at   timestamptz,
  add column agreed_by   uuid references people,
  add column promised_on timestamptz, -- when that was promised
  add column promised_by uuid references people;

-- A message that took itself back before it was sent: nothing of it was due any more, or its owner is not to be told.
alter table messages add column moot boolean not null default false;

-- A job that was cancelled by a slip of the hand.
insert into ledger_kinds values ('job-reopened');

-- What bikes need says how far they were really ridden, and in the order in which it comes.
update bike_due set asked = asked + 1;

-- +goose Down
alter table jobs drop column agreed_at, drop column agreed_by, drop column promised_on, drop column promised_by;
alter table messages drop column moot;
delete from ledger_kinds where kind = 'job-reopened';
