-- +goose Up
-- The ledger is kept row by row: a statement that would touch no entry is no harm, and a backup of an older version is read
-- into its own schema, which takes the kinds of newer ones away from a ledger that is empty.
drop trigger ledger_is_kept on ledger;
drop trigger if exists ledger_is_kept_whole on ledger;
create trigger ledger_is_kept before update or delete on ledger for each row execute function ledger_is_kept();
create trigger ledger_is_kept_whole before truncate on ledger execute function ledger_is_kept();

-- A reading by an apprentice that asks for another chain waits until a mechanic signed for it.
alter table measurements add column unsigned boolean not null default false;
create index measurements_unsigned on measurements (bike_id) where unsigned and struck_by is null;

-- An apprentice asked a mechanic to sign that a bike may go; what a job came to, and when it was paid.
alter table jobs add column sign_asked_at timestamptz;
alter table jobs add column sign_asked_by uuid references people;
alter table jobs add column total integer check (total >= 0); -- minor units; null before it is handed back, and of older jobs
alter table jobs add column paid_at timestamptz;
alter table jobs add column paid_by uuid references people;
create index jobs_unpaid on jobs (closed_at) where state = 'handed-back' and total > 0 and paid_at is null;

-- Two customers who are one: whose bikes went over to whom.
alter table customers add column merged_into uuid references customers;

-- When and how a customer agreed to be contacted, and who of the shop heard it; of older ones nobody knows.
alter table customers add column consent_how text not null default '' check (consent_how in ('', 'in-person', 'phone', 'mail', 'written'));
alter table customers add column consent_at timestamptz;
alter table customers add column consent_by uuid references people;

-- What a browser itself said that it is called: one that was renamed from afar keeps its new name until it says another.
alter table devices add column told text not null default '';
update devices set told = name;

insert into ledger_kinds (kind) values ('countersigned'), ('job-signature-asked'), ('job-paid'), ('customer-merged');

-- +goose Down
delete from ledger_kinds where kind in ('countersigned', 'job-signature-asked', 'job-paid', 'customer-merged');
alter table devices drop column told;
alter table customers drop column consent_by;
alter table customers drop column consent_at;
alter table customers drop column consent_how;
alter table customers drop column merged_into;
drop index jobs_unpaid;
alter table jobs drop column paid_by;
alter table jobs drop column paid_at;
alter table jobs drop column total;
alter table jobs drop column sign_asked_by;
alter table jobs drop column sign_asked_at;
drop index measurements_unsigned;
alter table measurements drop column unsigned;
