-- +goose Up

-- One word for one thing: what stands in the code stands here.
alter table wall rename to day_plan;
alter table day_plan rename column of to fingerprint;
alter table deeds rename to idempotent_writes;
alter index deeds_age rename to idempotent_writes_age;
alter table bike_due rename column asked to requested_rev;
alter table bike_due rename column made to built_rev;
alter index bike_due_asked rename to bike_due_stale;

-- +goose Down
alter index bike_due_stale rename to bike_due_asked;
alter table bike_due rename column built_rev to made;
alter table bike_due rename column requested_rev to asked;
alter index idempotent_writes_age rename to deeds_age;
alter table idempotent_writes rename to deeds;
alter table day_plan rename column fingerprint to of;
alter table day_plan rename to wall;
