-- +goose Up
-- A handout's list reads the room's entries and its own, however many there are beside.
create index ledger_of on ledger (class_id, handout_id) where ended_at is null;
create index ledger_ended on ledger (class_id) where ended_at is not null;
