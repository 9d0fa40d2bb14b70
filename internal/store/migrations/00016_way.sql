-- +goose Up
-- Whether somebody works a job at the stand in blocks or step by step; null is as their role does.
alter table people add column way text check (way in ('blocks', 'one-by-one'));

-- +goose Down
alter table people drop column way;
