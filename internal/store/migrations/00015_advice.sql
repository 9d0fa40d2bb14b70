-- +goose Up
-- What bikes need is reckoned anew: events grow, what is due keeps its first day, readings ask for orders.
update bike_due set requested_rev = requested_rev + 1;

-- +goose Down
select 1;
