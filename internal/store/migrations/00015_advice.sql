-- +goose Up
-- What bikes need is reckoned anew: events grow, what is due keeps its first day, readings ask for orders.
update bike_due set requested_rev = requested_rev + 1;

-- Which oil is in a bottle, and where it stands: the step at the stand names it.
alter table materials add column family text not null default '', add column place text not null default '';
-- Chains that were off are oiled in a heated bath, which is a standing bath of its own.
alter table baths drop constraint baths_kind_check;
alter table baths add constraint baths_kind_check check (kind in ('ultrasonic-tank', 'solvent-jar', 'soak-tub', 'wax-pot', 'lubricant-bath'));

-- +goose Down
delete from baths where kind = 'lubricant-bath';
alter table baths drop constraint baths_kind_check;
alter table baths add constraint baths_kind_check check (kind in ('ultrasonic-tank', 'solvent-jar', 'soak-tub', 'wax-pot'));
alter table materials drop column family, drop column place;
