-- +goose Up

-- What a ledger entry may be about, as rows: a new kind is added without checking the whole ledger again.
create table ledger_kinds (kind text primary key);
insert into ledger_kinds values
  ('bike-added'), ('bike-changed'), ('bike-archived'), ('bike-restored'), ('measurement'), ('odometer'), ('strike-out'),
  ('chain-fitted'), ('chain-opened'), ('part-fitted'), ('replacement'),
  ('customer-added'), ('customer-changed'), ('customer-archived'), ('customer-restored'),
  ('instrument-added'), ('instrument-changed'), ('zero-checked'), ('instrument-retired'), ('instrument-restored'),
  ('stock-added'), ('stock-changed'), ('stock-retired'), ('stock-restored'), ('rules-changed'),
  ('job-arrived'), ('job-changed'), ('job-planned'), ('job-step'), ('job-finding'), ('job-finding-resolved'), ('job-note'), ('job-photo'),
  ('job-handed-back'), ('job-cancelled'), ('wait'), ('bath'), ('material'), ('waste'),
  ('job-part');
alter table ledger add constraint ledger_kind_known foreign key (kind) references ledger_kinds;
alter table ledger drop constraint ledger_kind_check;

-- +goose Down
alter table ledger add constraint ledger_kind_check check (kind in (
  'bike-added', 'bike-changed', 'bike-archived', 'bike-restored', 'measurement', 'odometer', 'strike-out',
  'chain-fitted', 'chain-opened', 'part-fitted', 'replacement',
  'customer-added', 'customer-changed', 'customer-archived', 'customer-restored',
  'instrument-added', 'instrument-changed', 'zero-checked', 'instrument-retired', 'instrument-restored',
  'stock-added', 'stock-changed', 'stock-retired', 'stock-restored', 'rules-changed',
  'job-arrived', 'job-changed', 'job-planned', 'job-step', 'job-finding', 'job-finding-resolved', 'job-note', 'job-photo',
  'job-handed-back', 'job-cancelled', 'wait', 'bath', 'material', 'waste'));
alter table ledger drop constraint ledger_kind_known;
drop table ledger_kinds;
