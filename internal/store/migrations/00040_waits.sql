-- +goose Up
-- Rows that a thing was made for, too, and that had no account then: access follows once they have.
alter table ledger add waits text[] not null default '{}';
create index on ledger (class_id) where waits <> '{}' and ended_at is null;
