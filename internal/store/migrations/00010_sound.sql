-- +goose Up

-- Devices are told apart, so that wrong PINs typed on one lock nobody out on another, and so that the key of
-- a write belongs to its author on that device.
create table devices (
  id           uuid primary key,
  token_hash   bytea not null unique check (length(token_hash) = 32), -- of its cookie
  name         text not null,
  created_at   timestamptz not null,
  last_seen_at timestamptz not null
);
create table device_people (
  device_id    uuid not null references devices on delete cascade,
  person_id    uuid not null references people,
  signed_in_at timestamptz not null,
  wrong_tries  integer not null default 0 check (wrong_tries >= 0),
  tried_at     timestamptz, -- the last wrong one
  primary key (device_id, person_id)
);
create table stranger_tries (
  address     text primary key, -- where devices come from on which nobody ever signed in
  wrong_tries integer not null default 0 check (wrong_tries >= 0),
  tried_at    timestamptz not null
);
alter table people add column tried_at timestamptz; -- the last wrong one, on a device new to them
alter table people drop column next_try_at;
alter table sessions add column device_id uuid references devices on delete cascade;
create index sessions_seen on sessions (last_seen_at);

alter table deeds add column device_id uuid not null default '00000000-0000-0000-0000-000000000000';
alter table deeds drop constraint deeds_pkey;
alter table deeds add primary key (person_id, device_id, key);

-- Secret links: only a hash of each is kept, a bike may have several, and they end with its ownership.
alter table links add column id uuid not null default gen_random_uuid();
alter table links add column token_hash bytea;
alter table links add column name text not null default '';
update links set token_hash = sha256(convert_to(token, 'UTF8'));
alter table links alter column token_hash set not null;
alter table links add constraint links_token_hash check (length(token_hash) = 32);
-- Where one stands in the words of a message, its place is kept and it is not.
update messages set body = regexp_replace(body, 'https?://[^[:space:]]+/o/[A-Za-z0-9_-]{22,}', '{link}', 'g') where body like '%/o/%';
update gateway_received set body = regexp_replace(body, 'https?://[^[:space:]]+/o/[A-Za-z0-9_-]{22,}', '{link}', 'g') where body like '%/o/%';
drop index links_bike, links_shop;
alter table links drop column token;
alter table links add primary key (id);
create unique index links_hash on links (token_hash);
create index links_live on links (bike_id) where withdrawn_at is null;
update links l set withdrawn_at = now() from bikes b
where b.id = l.bike_id and l.withdrawn_at is null and (b.archived_at is not null or exists (
  select from ledger e where e.bike_id = b.id and e.kind = 'bike-changed' and e.body->'changed' @> '["owner"]' and e.written_at > l.created_at));

-- What customers say in their own words stands outside the ledger, where it can be erased.
alter table owner_reports add column key text not null default '';
create unique index owner_reports_key on owner_reports (bike_id, key) where key <> '';
alter table ledger disable trigger ledger_is_kept;
insert into owner_reports (id, bike_id, event, note, told_at, state, decided_at, decided_by)
select l.id, l.bike_id, coalesce(l.body->>'event', ''), l.body->>'note', l.happened_at, 'confirmed', l.written_at, l.person_id
from ledger l where l.kind = 'bike-event' and l.body->>'owner' = 'true' and coalesce(l.body->>'note', '') <> ''
  and not exists (select from owner_reports r where r.bike_id = l.bike_id and r.told_at = l.happened_at and r.event = l.body->>'event');
update ledger l set body = (l.body - 'note') || coalesce(
  (select jsonb_build_object('report', r.id) from owner_reports r
   where r.bike_id = l.bike_id and r.told_at = l.happened_at and r.event = l.body->>'event' order by r.id limit 1), '{}')
where l.kind = 'bike-event' and l.body->>'owner' = 'true' and l.body ? 'note';
update ledger set body = jsonb_set(body, '{arrival}', (body->'arrival') - 'reports' - 'wants')
where jsonb_typeof(body->'arrival') = 'object' and (body->'arrival' ? 'reports' or body->'arrival' ? 'wants');
alter table ledger enable trigger ledger_is_kept;

-- Entries that cannot be read are passed over and listed for a person.
alter table bike_due add column broken jsonb not null default '[]';
update bike_due set asked = asked + 1;
create index bike_due_broken on bike_due (bike_id) where broken <> '[]';

-- A ride file with questions waits until they are answered.
create table ride_drafts (
  id         uuid primary key,
  bike_id    uuid not null references bikes,
  person_id  uuid not null references people,
  name       text not null,
  content    bytea not null check (octet_length(content) between 1 and 16000000),
  answers    jsonb not null default '{}',
  created_at timestamptz not null
);
create index ride_drafts_bike on ride_drafts (bike_id, created_at desc);

-- +goose Down
drop table ride_drafts;
drop index bike_due_broken;
alter table bike_due drop column broken;
drop index owner_reports_key;
alter table owner_reports drop column key;
drop index links_live, links_hash;
alter table links drop constraint links_pkey;
alter table links add column token text;
update links set token = encode(token_hash, 'hex'); -- what was hashed cannot be had back: these open nothing
alter table links add primary key (token);
alter table links drop column token_hash, drop column id, drop column name;
create unique index links_bike on links (bike_id, kind) where withdrawn_at is null and bike_id is not null;
create unique index links_shop on links (kind) where withdrawn_at is null and bike_id is null;
delete from deeds;
alter table deeds drop constraint deeds_pkey;
alter table deeds drop column device_id;
alter table deeds add primary key (person_id, key);
drop index sessions_seen;
alter table sessions drop column device_id;
alter table people add column next_try_at timestamptz;
alter table people drop column tried_at;
drop table stranger_tries, device_people, devices;
