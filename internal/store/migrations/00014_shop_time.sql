-- +goose Up

-- Where the shop is: by whose clock its days, hours and quiet times are, and how it writes numbers, dates and amounts. An
-- empty zone is one that nobody chose yet: the program takes the machine's when it starts, and says so. Units are those in
-- which people type and read; everything is kept in mm, km, °C, mL and g.
alter table shop
  add column time_zone        text not null default '',
  add column locale           text not null default 'en-GB',
  add column temperature_unit text not null default 'c' check (temperature_unit in ('c', 'f')),
  add column volume_unit      text not null default 'ml' check (volume_unit in ('ml', 'fl-oz')),
  add column mass_unit        text not null default 'g' check (mass_unit in ('g', 'oz')),
  -- How far a demo's clock runs ahead of the world's; 0 for every shop that is one.
  add column clock_ahead_s    bigint not null default 0;

-- +goose Down
alter table shop
  drop column time_zone, drop column locale, drop column temperature_unit, drop column volume_unit, drop column mass_unit, drop column clock_ahead_s;
