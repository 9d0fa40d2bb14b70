-- +goose Up

-- How a chain is looked after, which says how long it may last before anything is measured.
alter table bikes add column care text not null default ''
  check (care in ('', 'neglected', 'now-and-then', 'oil', 'drip-wax', 'immersion-wax'));

alter table ledger drop constraint ledger_kind_check;
alter table ledger add constraint ledger_kind_check check (kind in (
  'bike-added', 'bike-changed', 'bike-archived', 'bike-restored', 'measurement', 'odometer', 'chain-fitted', 'strike-out',
  'customer-added', 'customer-changed', 'customer-archived', 'customer-restored'));

-- +goose Down
alter table ledger drop constraint ledger_kind_check;
alter table ledger add constraint ledger_kind_check check (kind in (
  'bike-added', 'bike-changed', 'bike-archived', 'bike-restored', 'measurement', 'strike-out',
  'customer-added', 'customer-changed', 'customer-archived', 'customer-restored'));
alter table bikes drop column care;
