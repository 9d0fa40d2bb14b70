-- +goose Up

-- One shop a database.
create table shop (
  id                   smallint primary key default 1 check (id = 1),
  name                 text not null check (btrim(name) <> ''),
  length_unit          text not null default 'mm' check (length_unit in ('mm', 'in')),
  wear_school          text not null default 'protect' check (wear_school in ('protect', 'half', 'three-quarter', 'run-out')),
  wear_places          smallint not null default 3 check (wear_places between 1 and 8),
  session_idle_minutes integer not null default 480 check (session_idle_minutes between 1 and 10080),
  version              integer not null default 1
);

create table people (
  id             uuid primary key,
  name           text not null check (btrim(name) <> ''),
  role           text not null check (role in ('owner', 'mechanic', 'counter', 'apprentice')),
  secret_hash    text not null,
  wrong_tries    integer not null default 0 check (wrong_tries >= 0),
  next_try_at    timestamptz,
  left_at        timestamptz,
  created_at     timestamptz not null
);
create unique index people_name on people (lower(name)) where left_at is null;

create table sessions (
  token_hash   bytea primary key check (length(token_hash) = 32), -- of the cookie; the cookie itself is kept nowhere
  person_id    uuid not null references people,
  device       text not null,
  created_at   timestamptz not null,
  last_seen_at timestamptz not null
);

create table customers (
  id          uuid primary key,
  name        text not null check (btrim(name) <> ''),
  phone       text not null default '',
  email       text not null default '',
  contact_way text not null default '' check (contact_way in ('', 'message', 'mail', 'none')),
  consent     boolean not null default false,
  notes       text not null default '',
  folded      text not null, -- what finding looks in: lower case, no accents
  archived_at timestamptz,
  version     integer not null default 1 check (version > 0),
  created_at  timestamptz not null
);
create index customers_name on customers (name);

create sequence bike_tag_number as integer;

create table bikes (
  id                  uuid primary key,
  tag_number          integer not null unique check (tag_number > 0),
  customer_id         uuid not null references customers,
  make                text not null default '',
  model               text not null default '',
  colour              text not null default '',
  frame_number        text not null default '',
  kind                text not null default '' check (kind in ('', 'everyday', 'road', 'gravel', 'trail', 'cargo', 'child-carrying', 'hub-gear', 'fixed-gear')),
  drivetrain_kind     text not null default '' check (drivetrain_kind in ('', 'derailleur', 'single-speed', 'hub-gear')),
  sprocket_count      smallint check (sprocket_count between 1 and 14),
  sprocket_teeth      jsonb check (jsonb_typeof(sprocket_teeth) = 'array'),
  ring_teeth          jsonb check (jsonb_typeof(ring_teeth) = 'array'),
  chainstay_mm        double precision check (chainstay_mm between 200 and 1500),
  chainstay_growth_mm double precision check (chainstay_growth_mm between 0 and 60),
  cage_mm             double precision check (cage_mm between 30 and 150),
  clutch              boolean,
  capacity_teeth      smallint check (capacity_teeth between 1 and 100),
  chain_links         smallint check (chain_links between 30 and 300),
  brakes              text not null default '' check (brakes in ('', 'rim', 'disc', 'drum', 'coaster')),
  motor               text not null default '' check (motor in ('', 'none', 'hub', 'mid')),
  lubricant           text not null default '' check (lubricant in ('', 'wet-oil', 'dry-oil', 'all-weather', 'drip-wax', 'immersion-wax', 'factory-grease')),
  weekly_km           double precision check (weekly_km between 0 and 3000),
  mix                 jsonb check (jsonb_typeof(mix) = 'object'),
  limit_pct           double precision check (limit_pct between 0.1 and 3),
  together_pct        double precision check (together_pct between 0.1 and 3),
  limit_source        text not null default '' check (limit_source in ('', 'bike', 'maker')),
  limit_reason        text not null default '',
  notes               text not null default '',
  folded              text not null,
  archived_at         timestamptz,
  version             integer not null default 1 check (version > 0),
  created_at          timestamptz not null,
  -- its own limits come whole or not at all
  check (num_nonnulls(limit_pct, together_pct) in (0, 2)),
  check ((limit_pct is null) = (limit_source = '')),
  check (together_pct >= limit_pct)
);
create index bikes_customer on bikes (customer_id);

-- One picture a bike, made small by the server. Pictures live beside the bikes, not in them, so that
-- a list of bikes carries none.
create table bike_photos (
  bike_id  uuid primary key references bikes,
  jpeg     bytea not null check (octet_length(jpeg) between 1 and 4000000),
  taken_at timestamptz not null
);

create table instruments (
  id              uuid primary key,
  name            text not null check (btrim(name) <> ''),
  kind            text not null check (kind in ('ruler', 'whole-chain', 'caliper-inside', 'gauge-percent', 'gauge-dropin', 'pull-off')),
  zero_offset_pct double precision not null default 0 check (zero_offset_pct between -1 and 1),
  zero_checked_on date,
  spreads         boolean not null default false,
  marks           jsonb not null default '[]' check (jsonb_typeof(marks) = 'array'),
  position        integer not null default 0,
  retired_at      timestamptz,
  version         integer not null default 1 check (version > 0),
  created_at      timestamptz not null
);
create unique index instruments_name on instruments (lower(name)) where retired_at is null;

-- Every fact that happened, in the order it was written. Nothing here is ever changed or removed:
-- a wrong entry is struck out by another.
create table ledger (
  id          uuid primary key,
  number      bigint generated always as identity unique,
  bike_id     uuid references bikes,
  customer_id uuid references customers,
  kind        text not null check (kind in ('bike-added', 'bike-changed', 'bike-archived', 'bike-restored', 'measurement', 'strike-out',
                                            'customer-added', 'customer-changed', 'customer-archived', 'customer-restored')),
  happened_at timestamptz not null,
  written_at  timestamptz not null,
  person_id   uuid not null references people,
  device      text not null,
  strikes     uuid unique references ledger, -- unique: an entry is struck out once
  body        jsonb not null check (jsonb_typeof(body) = 'object'),
  check (num_nonnulls(bike_id, customer_id) = 1),
  check ((kind = 'strike-out') = (strikes is not null))
);
create index ledger_bike on ledger (bike_id, happened_at desc, number desc);
create index ledger_customer on ledger (customer_id, number desc);

-- +goose StatementBegin
create function ledger_is_kept() returns trigger language plpgsql as $$
begin
  raise exception 'ledger entries are struck out, never changed or removed';
end $$;
-- +goose StatementEnd
create trigger ledger_is_kept before update or delete or truncate on ledger
  for each statement execute function ledger_is_kept();

-- What the ledger says of chains, laid out to be asked. It can be made again from the ledger.
create table measurements (
  entry_id       uuid primary key references ledger,
  bike_id        uuid not null references bikes,
  instrument_id  uuid not null references instruments,
  taken_at       timestamptz not null,
  elongation_pct double precision,
  sigma_pct      double precision check (sigma_pct > 0),
  low_pct        double precision,
  high_pct       double precision, -- null: the tool looked no further
  limit_pct      double precision not null,
  verdict        text not null check (verdict in ('ok', 'watch', 'unsure', 'replace', 'replace-together')),
  struck_by      uuid unique references ledger,
  -- either a value with its error or an interval
  check (num_nonnulls(elongation_pct, sigma_pct) in (0, 2)),
  check ((elongation_pct is null) = (low_pct is not null)),
  check (high_pct > low_pct)
);
create index measurements_last on measurements (bike_id, taken_at desc, entry_id desc) where struck_by is null;

-- The first answer to each deed, so that a deed sent twice is done once.
create table deeds (
  person_id    uuid not null references people,
  key          text not null,
  request_hash bytea not null,
  answer       jsonb,
  created_at   timestamptz not null,
  primary key (person_id, key)
);
create index deeds_age on deeds (created_at);

-- +goose Down
drop table deeds, measurements, ledger, instruments, bike_photos, bikes, customers, sessions, people, shop;
drop sequence bike_tag_number;
drop function ledger_is_kept;
