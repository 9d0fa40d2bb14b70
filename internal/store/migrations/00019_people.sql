-- +goose Up
-- People are changed from the page: a version tells who was quicker, and somebody is kept out at once.
alter table people add column version integer not null default 1 check (version > 0);
alter table people add column locked_at timestamptz; -- signed in nowhere, and not let in

-- What the shop's owner changed of who may do what (handbook: records). No row: all as the house has it.
create table permissions (
  id      smallint primary key default 1 check (id = 1),
  ticks   jsonb not null,
  version integer not null check (version > 0)
);
-- A shop that has no owner yet goes on as it did: its mechanics stand in until there is one.
insert into permissions (id, ticks, version)
select 1, '{"settings": ["mechanic"], "export": ["mechanic"], "customer-data": ["mechanic", "counter"]}', 1
where exists (select 1 from shop) and not exists (select 1 from people where role = 'owner' and left_at is null);

insert into ledger_kinds (kind) values ('person-added'), ('person-changed'), ('device-changed'), ('permissions-changed');
alter table ledger drop constraint ledger_subject;
alter table ledger add constraint ledger_subject check (
  num_nonnulls(bike_id, customer_id, instrument_id, stock_item_id) = case when kind in
  ('rules-changed', 'wait', 'bath', 'material', 'waste', 'person-added', 'person-changed', 'device-changed', 'permissions-changed') then 0 else 1 end);

-- +goose Down
delete from ledger where kind in ('person-added', 'person-changed', 'device-changed', 'permissions-changed');
alter table ledger drop constraint ledger_subject;
alter table ledger add constraint ledger_subject check (
  num_nonnulls(bike_id, customer_id, instrument_id, stock_item_id) =
  case when kind in ('rules-changed', 'wait', 'bath', 'material', 'waste') then 0 else 1 end);
delete from ledger_kinds where kind in ('person-added', 'person-changed', 'device-changed', 'permissions-changed');
drop table permissions;
alter table people drop column locked_at;
alter table people drop column version;
