-- +goose Up
-- Every grant as it was given, and every one that was taken away (level 0): added,
-- never merged.
create table grants (
  n         bigint generated always as identity primary key,
  ledger_id uuid not null references ledger on delete cascade,
  account   text not null,
  level     integer not null,
  run_id    uuid not null,
  at        timestamptz not null
);
create index on grants (ledger_id);
