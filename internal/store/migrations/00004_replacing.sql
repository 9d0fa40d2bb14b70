-- +goose Up

-- The shop's schools of replacing: how a chain is sized, when sprockets go with it, whether a joining link
-- closes again, what is done with a new chain's grease.
alter table shop
  add column length_method   text not null default 'wrap' check (length_method in ('wrap', 'formula', 'old-chain')),
  add column sprocket_school text not null default 'test-first' check (sprocket_school in ('test-first', 'together-at-limit')),
  add column link_school     text not null default 'new-each-time' check (link_school in ('new-each-time', 'inspect-and-reuse')),
  add column grease_school   text not null default 'by-lubricant' check (grease_school in ('by-lubricant', 'keep-inside', 'strip-all'));

-- Chains and joining links on the shelf.
create table stock_items (
  id               uuid primary key,
  kind             text not null check (kind in ('chain', 'joining-link')),
  name             text not null check (btrim(name) <> ''),
  sprockets        smallint not null check (sprockets between 1 and 14), -- side by side, that its width is for
  quantity         integer not null default 0 check (quantity >= 0),
  low_mark         integer not null default 0 check (low_mark >= 0),
  cost             integer check (cost >= 0), -- of one, in minor units
  box_links        smallint check (box_links between 30 and 300),
  has_joining_link boolean not null default false,
  stated_uses      smallint check (stated_uses between 1 and 100),
  retired_at       timestamptz,
  version          integer not null default 1 check (version > 0),
  created_at       timestamptz not null,
  check (kind = 'chain' or (box_links is null and not has_joining_link)),
  check (kind = 'joining-link' or stated_uses is null)
);
create unique index stock_items_name on stock_items (lower(name)) where retired_at is null;

alter table ledger add column stock_item_id uuid references stock_items;
alter table ledger drop constraint ledger_subject;
alter table ledger add constraint ledger_subject check (
  num_nonnulls(bike_id, customer_id, instrument_id, stock_item_id) = case kind when 'rules-changed' then 0 else 1 end);
alter table ledger drop constraint ledger_kind_check;
alter table ledger add constraint ledger_kind_check check (kind in (
  'bike-added', 'bike-changed', 'bike-archived', 'bike-restored', 'measurement', 'odometer', 'strike-out',
  'chain-fitted', 'chain-opened', 'part-fitted', 'replacement',
  'customer-added', 'customer-changed', 'customer-archived', 'customer-restored',
  'instrument-added', 'instrument-changed', 'zero-checked', 'instrument-retired', 'instrument-restored',
  'stock-added', 'stock-changed', 'stock-retired', 'stock-restored', 'rules-changed'));

-- Whether a chain was fitted since a bike was read.
create index ledger_chains on ledger (bike_id, happened_at) where kind = 'chain-fitted';

-- +goose Down
drop index ledger_chains;
alter table ledger drop constraint ledger_kind_check;
alter table ledger add constraint ledger_kind_check check (kind in (
  'bike-added', 'bike-changed', 'bike-archived', 'bike-restored', 'measurement', 'odometer', 'chain-fitted', 'strike-out',
  'customer-added', 'customer-changed', 'customer-archived', 'customer-restored',
  'instrument-added', 'instrument-changed', 'zero-checked', 'instrument-retired', 'instrument-restored', 'rules-changed'));
alter table ledger drop constraint ledger_subject;
alter table ledger drop column stock_item_id;
alter table ledger add constraint ledger_subject check (
  num_nonnulls(bike_id, customer_id, instrument_id) = case kind when 'rules-changed' then 0 else 1 end);
drop table stock_items;
alter table shop drop column length_method, drop column sprocket_school, drop column link_school, drop column grease_school;
