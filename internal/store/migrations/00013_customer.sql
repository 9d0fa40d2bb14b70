-- +goose Up

-- Whose a bike is stands under customer: the first answers of writes that may be sent again say it so too.
update idempotent_writes set answer = (answer - 'owner') || jsonb_build_object('customer', answer->'owner')
where jsonb_typeof(answer) = 'object' and jsonb_typeof(answer->'owner') = 'object';

-- +goose Down
update idempotent_writes set answer = (answer - 'customer') || jsonb_build_object('owner', answer->'customer')
where jsonb_typeof(answer) = 'object' and jsonb_typeof(answer->'customer') = 'object';
