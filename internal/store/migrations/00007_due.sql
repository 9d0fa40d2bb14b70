-- +goose Up

-- How often tasks fall due in this shop, beyond the house's table.
alter table shop add column intervals jsonb check (jsonb_typeof(intervals) = 'object');

-- What a bike does otherwise than the shop, and the day on which its owner needs it ready.
alter table bikes
  add column tasks      jsonb check (jsonb_typeof(tasks) = 'object'),
  add column needed_on  text not null default '' check (needed_on ~ '^(\d{4}-\d\d-\d\d)?$'),
  add column needed_for text not null default '';

insert into ledger_kinds values ('task-done'), ('bike-event'), ('message'), ('link'), ('owner-report'), ('ride'), ('passport');

-- What each bike needs, kept current so that nobody reckons the whole shop at a look. It can be made again
-- from the ledger: asked counts what was written of the bike since, made is the count that it was made for.
create table bike_due (
  bike_id  uuid primary key references bikes,
  asked    bigint not null default 1,
  made     bigint not null default 0,
  day      date not null default '1970-01-01', -- for which it holds
  state    smallint not null default 0 check (state between 0 and 3),
  safety   boolean not null default false,    -- of its most urgent task, as all that follows
  urgency  double precision not null default 0,
  code     text not null default '',
  due_on   date,                              -- the earliest of them all
  chain_on date,                              -- on which the chain is to be replaced
  recall_at timestamptz not null default '1970-01-01', -- before then its owner is not told of what is due
  basis    jsonb,
  tasks    jsonb not null default '[]'
);
insert into bike_due (bike_id) select id from bikes;
create index bike_due_asked on bike_due (bike_id) where asked <> made;
create index bike_due_day on bike_due (day);
create index bike_due_order on bike_due (state desc, safety desc, urgency desc, bike_id desc);
create index bike_due_on on bike_due (due_on);
create index bike_due_chain on bike_due (chain_on);
create index bike_due_recall on bike_due (recall_at) where state >= 2;

-- What finding a bike looks in: the bike's own words and its owner's, kept together by the database, so that
-- one index finds both.
create extension if not exists pg_trgm;
alter table bikes add column search text not null default '';
-- +goose StatementBegin
create function bikes_search() returns trigger language plpgsql as $$
begin
  new.search := new.folded || ' ' || (select folded from customers where id = new.customer_id);
  return new;
end $$;
create function customers_search() returns trigger language plpgsql as $$
begin
  update bikes set search = folded || ' ' || new.folded where customer_id = new.id;
  return null;
end $$;
-- +goose StatementEnd
create trigger bikes_search before insert or update of folded, customer_id on bikes for each row execute function bikes_search();
create trigger customers_search after update of folded on customers for each row when (new.folded <> old.folded) execute function customers_search();
update bikes b set search = b.folded || ' ' || c.folded from customers c where c.id = b.customer_id;
create index bikes_search on bikes using gin (search gin_trgm_ops);
create index customers_search on customers using gin (folded gin_trgm_ops);
create index bikes_current on bikes (tag_number) where archived_at is null;

-- What owners are told. A draft waits for somebody to send it; what is queued is tried until it is delivered
-- or given up. Which process tries is settled by next_try_at, which moves on before a try.
create table messages (
  id           uuid primary key,
  bike_id      uuid not null references bikes,
  customer_id  uuid not null references customers,
  state        text not null check (state in ('draft', 'queued', 'delivered', 'not-reached', 'withdrawn')),
  way          text not null check (way in ('message', 'mail')),
  address      text not null,
  body         text not null check (btrim(body) <> ''),
  codes        jsonb not null default '[]', -- of the tasks it tells of
  created_at   timestamptz not null,
  queued_at    timestamptz,
  queued_by    uuid references people, -- null: the shop sends by itself
  tries        smallint not null default 0,
  next_try_at  timestamptz,
  last_error   text not null default '',
  ended_at     timestamptz, -- delivered, given up or withdrawn
  version      integer not null default 1 check (version > 0),
  check ((state = 'queued') = (next_try_at is not null)),
  check ((state in ('delivered', 'not-reached', 'withdrawn')) = (ended_at is not null))
);
create index messages_bike on messages (bike_id, created_at desc);
create index messages_customer on messages (customer_id);
create index messages_queue on messages (next_try_at) where state = 'queued';
create index messages_drafts on messages (created_at) where state = 'draft';
create unique index messages_one_draft on messages (bike_id) where state in ('draft', 'queued');

-- The simulated gateway's own memory: what it received.
create table gateway_received (
  message_id  uuid not null,
  received_at timestamptz not null,
  way         text not null,
  address     text not null,
  body        text not null,
  delivered   boolean not null,
  number      bigint generated always as identity primary key
);
create index gateway_received_message on gateway_received (message_id);
create index gateway_received_age on gateway_received (number desc);

-- Secret links: the owner's page of a bike, and the calendars of the shop and of one bike. Who has the token
-- has the page; a withdrawn one opens nothing, and a new one is made.
create table links (
  token        text primary key check (length(token) >= 22),
  kind         text not null check (kind in ('owner', 'calendar-shop', 'calendar-bike')),
  bike_id      uuid references bikes,
  created_at   timestamptz not null,
  withdrawn_at timestamptz,
  check ((bike_id is null) = (kind = 'calendar-shop'))
);
create unique index links_bike on links (bike_id, kind) where withdrawn_at is null and bike_id is not null;
create unique index links_shop on links (kind) where withdrawn_at is null and bike_id is null;

-- What owners tell of their bikes from their page: facts once somebody in the shop says so.
create table owner_reports (
  id          uuid primary key,
  bike_id     uuid not null references bikes,
  km          double precision check (km between 0 and 500000),
  event       text not null default '',
  note        text not null default '',
  told_at     timestamptz not null,
  state       text not null default 'open' check (state in ('open', 'confirmed', 'set-aside')),
  decided_at  timestamptz,
  decided_by  uuid references people,
  check ((state = 'open') = (decided_at is null)),
  check (km is not null or event <> '' or note <> '')
);
create index owner_reports_open on owner_reports (bike_id) where state = 'open';

-- What a bike's passport held that this program does not know: given out again with it.
create table passport_extras (
  bike_id uuid primary key references bikes,
  extras  jsonb not null check (jsonb_typeof(extras) = 'object')
);

-- What is given out as a table, kind by kind.
create index ledger_kind on ledger (kind, number);

-- How and when owners are told.
alter table shop add column recalls jsonb check (jsonb_typeof(recalls) = 'object');

-- +goose Down
drop index bikes_current, customers_search, bikes_search;
drop trigger customers_search on customers;
drop trigger bikes_search on bikes;
drop function customers_search, bikes_search;
alter table bikes drop column search;
alter table shop drop column recalls;
drop index ledger_kind;
drop table passport_extras, owner_reports, links, gateway_received, messages;
drop table bike_due;
delete from ledger_kinds where kind in ('task-done', 'bike-event', 'message', 'link', 'owner-report', 'ride', 'passport');
alter table bikes drop column tasks, drop column needed_on, drop column needed_for;
alter table shop drop column intervals;
