-- +goose Up
-- What somebody wrote on a device that could not send it comes later, and as theirs: with a token that the device was given
-- for them when they signed in there with their PIN. It ends when they sign out with nothing left to send.
alter table device_people add column pen_hash bytea;
alter table device_people add column pen_at timestamptz;
create unique index device_people_pen on device_people (pen_hash);

-- Signed out from afar: what the device keeps of the shop goes at its next contact.
alter table devices add column forgets boolean not null default false;

-- The tag that a bike went by on the device on which it was added, until it got one here; it is still found by it.
alter table bikes add column made_as text unique;

-- With which version a write left what it wrote to, for those of the same device that were built on it.
alter table idempotent_writes add column left_version integer;
create index idempotent_writes_of_device on idempotent_writes (device_id, key);

-- +goose Down
drop index idempotent_writes_of_device;
alter table idempotent_writes drop column left_version;
alter table bikes drop column made_as;
alter table devices drop column forgets;
drop index device_people_pen;
alter table device_people drop column pen_at;
alter table device_people drop column pen_hash;
