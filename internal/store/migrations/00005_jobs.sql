-- +goose Up

-- How the shop cleans and what it charges, beyond what it set elsewhere; what is missing is the house's.
alter table shop add column work jsonb check (jsonb_typeof(work) = 'object');

-- A bike that came in, until it is handed back. One at a time for each bike.
create table jobs (
  id             uuid primary key,
  bike_id        uuid not null references bikes,
  state          text not null check (state in ('arrived', 'planned', 'handed-back', 'cancelled')),
  intake         jsonb not null check (jsonb_typeof(intake) = 'object'),
  plan           jsonb check (jsonb_typeof(plan) = 'object'),
  promised_at    timestamptz,
  agreed         integer check (agreed >= 0), -- price, in minor units
  comeback_of    uuid references jobs,
  closed_at      timestamptz,
  closed_by      uuid references people,
  second_by      uuid references people,
  version        integer not null default 1 check (version > 0),
  created_at     timestamptz not null,
  created_by     uuid not null references people,
  check (state = 'arrived' or state = 'cancelled' or plan is not null),
  check ((state in ('handed-back', 'cancelled')) = (closed_at is not null)),
  check (second_by is distinct from closed_by or second_by is null)
);
create unique index jobs_open on jobs (bike_id) where state in ('arrived', 'planned');
create index jobs_bike on jobs (bike_id, created_at desc);

create table job_steps (
  job_id    uuid not null references jobs,
  code      text not null,
  position  smallint not null,
  spec      jsonb not null check (jsonb_typeof(spec) = 'object'), -- as it was planned
  state     text not null default 'open' check (state in ('open', 'begun', 'done', 'skipped')),
  round     smallint not null default 1 check (round > 0),
  fails     smallint not null default 0 check (fails >= 0),
  begun_at  timestamptz,
  begun_by  uuid references people,
  done_at   timestamptz,
  done_by   uuid references people,
  worked_s  integer not null default 0 check (worked_s >= 0), -- hands, all rounds and people together
  reason    text not null default '',                         -- why it was left out
  primary key (job_id, code),
  check ((state = 'begun') = (begun_at is not null)),
  check ((state in ('done', 'skipped')) = (done_at is not null))
);

create index job_steps_begun on job_steps (begun_by) where state = 'begun';

-- What runs by itself. Ends are times, so that a wait runs on while no program does.
create table waits (
  id         uuid primary key,
  job_id     uuid references jobs,
  step_code  text not null default '',
  what       text not null,
  place      text not null default '',
  began_at   timestamptz not null,
  began_by   uuid not null references people,
  least_at   timestamptz not null, -- what follows may begin
  most_at    timestamptz,          -- from then on it is too late
  ended_at   timestamptz,          -- taken, ended early, or followed by the next step
  ended_by   uuid references people,
  reason     text not null default '',
  check (most_at >= least_at)
);
create index waits_running on waits (least_at) where ended_at is null;
create index waits_job on waits (job_id);

create table findings (
  id          uuid primary key,
  job_id      uuid not null references jobs,
  code        text not null,
  place       text not null default '',
  severity    text not null check (severity in ('note', 'soon', 'stop')),
  note        text not null default '',
  found_at    timestamptz not null,
  found_by    uuid not null references people,
  resolved_at timestamptz,
  resolved_by uuid references people,
  resolution  text not null default '' check (resolution in ('', 'fixed', 'owner-told')),
  check ((resolved_at is null) = (resolution = ''))
);
create index findings_job on findings (job_id);

create table job_photos (
  id        uuid primary key,
  job_id    uuid not null references jobs,
  jpeg      bytea not null check (octet_length(jpeg) between 1 and 4000000),
  thumbnail bytea not null check (octet_length(thumbnail) between 1 and 400000),
  taken_at  timestamptz not null,
  taken_by  uuid not null references people
);
create index job_photos_job on job_photos (job_id, taken_at);

-- The first tap of each person on each caution each day.
create table caution_taps (
  person_id uuid not null references people,
  day       date not null,
  caution   text not null,
  primary key (person_id, day, caution)
);

-- What cleans and lubricates, by what the steps call it.
create table materials (
  id         uuid primary key,
  kind       text not null,
  name       text not null check (btrim(name) <> ''),
  quantity   double precision not null default 0 check (quantity >= 0), -- in the kind's unit
  low_mark   double precision not null default 0 check (low_mark >= 0),
  pack_size  double precision check (pack_size > 0),
  pack_cost  integer check (pack_cost >= 0), -- in minor units
  card       jsonb not null default '{}' check (jsonb_typeof(card) = 'object'),
  retired_at timestamptz,
  version    integer not null default 1 check (version > 0),
  created_at timestamptz not null
);
create unique index materials_name on materials (lower(name)) where retired_at is null;

create table material_uses (
  id          bigint generated always as identity primary key,
  material_id uuid not null references materials,
  job_id      uuid not null references jobs,
  step_code   text not null,
  amount      double precision not null check (amount > 0),
  used_at     timestamptz not null
);
create index material_uses_job on material_uses (job_id);

create table baths (
  id         uuid primary key,
  kind       text not null check (kind in ('ultrasonic-tank', 'solvent-jar', 'soak-tub', 'wax-pot')),
  name       text not null check (btrim(name) <> ''),
  fluid      text not null default '',
  strength   double precision check (strength between 0 and 100),
  volume_ml  double precision not null check (volume_ml > 0), -- of a wax pot, grams
  filled_at  timestamptz not null,
  used       integer not null default 0 check (used >= 0),
  settled    integer not null default 0 check (settled >= 0),
  settling   timestamptz, -- until then it stands
  clean_only boolean not null default false,
  dirty      boolean not null default false,
  grams_out  double precision not null default 0, -- of wax, carried off by chains
  heating_at timestamptz, -- since when a pot is on; null when it is off
  retired_at timestamptz,
  version    integer not null default 1 check (version > 0),
  created_at timestamptz not null
);
create unique index baths_name on baths (lower(name)) where retired_at is null;

create table bath_uses (
  id      bigint generated always as identity primary key,
  bath_id uuid not null references baths,
  job_id  uuid references jobs,
  soil    integer not null check (soil > 0),
  is_new  boolean not null,
  used_at timestamptz not null,
  used_by uuid not null references people
);
create index bath_uses_bath on bath_uses (bath_id, used_at desc);

create table waste (
  id        uuid primary key,
  kind      text not null check (kind in ('spent-solvent', 'oily-water', 'sludge', 'rags')),
  amount    double precision not null check (amount > 0), -- litres, of rags kilograms
  job_id    uuid references jobs,
  note      text not null default '',
  noted_at  timestamptz not null,
  noted_by  uuid not null references people
);
create index waste_age on waste (noted_at desc);

alter table ledger drop constraint ledger_subject;
alter table ledger add constraint ledger_subject check (
  num_nonnulls(bike_id, customer_id, instrument_id, stock_item_id) =
  case when kind in ('rules-changed', 'wait', 'bath', 'material', 'waste') then 0 else 1 end);
alter table ledger drop constraint ledger_kind_check;
alter table ledger add constraint ledger_kind_check check (kind in (
  'bike-added', 'bike-changed', 'bike-archived', 'bike-restored', 'measurement', 'odometer', 'strike-out',
  'chain-fitted', 'chain-opened', 'part-fitted', 'replacement',
  'customer-added', 'customer-changed', 'customer-archived', 'customer-restored',
  'instrument-added', 'instrument-changed', 'zero-checked', 'instrument-retired', 'instrument-restored',
  'stock-added', 'stock-changed', 'stock-retired', 'stock-restored', 'rules-changed',
  'job-arrived', 'job-changed', 'job-planned', 'job-step', 'job-finding', 'job-finding-resolved', 'job-note', 'job-photo',
  'job-handed-back', 'job-cancelled', 'wait', 'bath', 'material', 'waste'));
create index ledger_job on ledger ((body->>'job'), number) where body->>'job' is not null;

-- +goose Down
drop index ledger_job;
alter table ledger drop constraint ledger_kind_check;
alter table ledger add constraint ledger_kind_check check (kind in (
  'bike-added', 'bike-changed', 'bike-archived', 'bike-restored', 'measurement', 'odometer', 'strike-out',
  'chain-fitted', 'chain-opened', 'part-fitted', 'replacement',
  'customer-added', 'customer-changed', 'customer-archived', 'customer-restored',
  'instrument-added', 'instrument-changed', 'zero-checked', 'instrument-retired', 'instrument-restored',
  'stock-added', 'stock-changed', 'stock-retired', 'stock-restored', 'rules-changed'));
alter table ledger drop constraint ledger_subject;
alter table ledger add constraint ledger_subject check (
  num_nonnulls(bike_id, customer_id, instrument_id, stock_item_id) = case kind when 'rules-changed' then 0 else 1 end);
drop table waste, bath_uses, baths, material_uses, materials, caution_taps, job_photos, findings, waits, job_steps, jobs;
alter table shop drop column work;
