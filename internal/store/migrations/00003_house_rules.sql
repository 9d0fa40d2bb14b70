-- +goose Up

-- The shop's own rules beyond its school. Where it set none of its own a column is null, and the core's
-- numbers hold.
alter table shop
  add column distance_unit  text not null default 'km' check (distance_unit in ('km', 'mi')),
  add column currency       text not null default 'EUR' check (currency ~ '^[A-Z]{3}$'),
  add column factors        jsonb check (jsonb_typeof(factors) = 'object'),
  add column chains_per_set jsonb check (jsonb_typeof(chains_per_set) = 'object');

-- What the shop says of one class of drivetrains: lines of its own, and its prices in minor units.
create table class_rules (
  class            text primary key check (class in ('one-sprocket', 'wide-chain', 'narrow-chain')),
  limit_pct        double precision check (limit_pct between 0.1 and 3),
  together_pct     double precision check (together_pct between 0.1 and 3),
  limit_reason     text not null default '',
  chain            integer check (chain >= 0),
  sprockets        integer check (sprockets >= 0),
  rings            integer check (rings >= 0),
  labour_chain     integer check (labour_chain >= 0),
  labour_sprockets integer check (labour_sprockets >= 0),
  labour_rings     integer check (labour_rings >= 0),
  check (num_nonnulls(limit_pct, together_pct) in (0, 2)),
  check (together_pct >= limit_pct),
  check (num_nonnulls(chain, sprockets, rings, labour_chain, labour_sprockets, labour_rings) in (0, 6))
);

-- A bike may be judged by another school than the house's; why stands in limit_reason.
alter table bikes add column wear_school text not null default ''
  check (wear_school in ('', 'protect', 'half', 'three-quarter', 'run-out'));

-- The ledger also tells of the tools, and of the rules, which are the whole shop's.
alter table ledger add column instrument_id uuid references instruments;
alter table ledger drop constraint ledger_check; -- that an entry is about a bike or a customer
alter table ledger add constraint ledger_subject check (
  num_nonnulls(bike_id, customer_id, instrument_id) = case kind when 'rules-changed' then 0 else 1 end);
alter table ledger drop constraint ledger_kind_check;
alter table ledger add constraint ledger_kind_check check (kind in (
  'bike-added', 'bike-changed', 'bike-archived', 'bike-restored', 'measurement', 'odometer', 'chain-fitted', 'strike-out',
  'customer-added', 'customer-changed', 'customer-archived', 'customer-restored',
  'instrument-added', 'instrument-changed', 'zero-checked', 'instrument-retired', 'instrument-restored', 'rules-changed'));
create index ledger_instrument on ledger (instrument_id, number desc) where instrument_id is not null;
create index ledger_rules on ledger (number desc) where kind = 'rules-changed';

-- +goose Down
drop index ledger_rules, ledger_instrument;
alter table ledger drop constraint ledger_kind_check;
alter table ledger add constraint ledger_kind_check check (kind in (
  'bike-added', 'bike-changed', 'bike-archived', 'bike-restored', 'measurement', 'odometer', 'chain-fitted', 'strike-out',
  'customer-added', 'customer-changed', 'customer-archived', 'customer-restored'));
alter table ledger drop constraint ledger_subject;
alter table ledger add constraint ledger_check check (num_nonnulls(bike_id, customer_id) = 1);
alter table ledger drop column instrument_id;
alter table bikes drop column wear_school;
drop table class_rules;
alter table shop drop column distance_unit, drop column currency, drop column factors, drop column chains_per_set;
