-- +goose Up
-- When a handout was withdrawn: what it gave lies in the bin, and can come back whole.
alter table handouts add column withdrawn_at timestamptz;
