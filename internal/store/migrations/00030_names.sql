-- +goose Up
-- What handouts' things are called, to find those of one name.
create index ledger_names on ledger (class_id, lower(name)) where ended_at is null and purpose in ('copy', 'handout');
