-- +goose Up
-- Which state of a copy was given: the content (SHA-256; empty of those made before
-- that was kept), the version that holds it, and when it was given anew.
alter table ledger
  add column given_sha     text not null default '',
  add column given_version integer not null default 1,
  add column renewed_at    timestamptz;
