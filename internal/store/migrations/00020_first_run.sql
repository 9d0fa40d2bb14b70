-- +goose Up
-- The one-time code by which a shop is set up from the page. It goes when somebody works here.
create table set_up (
  id        smallint primary key default 1 check (id = 1),
  code_hash bytea not null,
  wrong     smallint not null default 0 -- tries at this code
);
-- What of the set-up is not gone through yet; null in a shop that was set up otherwise.
alter table shop add column setting_up jsonb;

-- +goose Down
alter table shop drop column setting_up;
drop table set_up;
