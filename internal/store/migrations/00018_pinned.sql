-- +goose Up
-- When a piece of work on the floor is to begin, where somebody said so.
alter table job_steps add column kept_at timestamptz;

-- +goose Down
alter table job_steps drop column kept_at;
