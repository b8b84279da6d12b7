-- +goose Up
-- Whom a run gave something is counted with each look at it.
create index on grants (run_id);
