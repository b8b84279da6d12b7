-- +goose Up
-- What the whole school has in common, as its office said; one row at most.
create table school (
  id         integer     primary key default 1 check (id = 1),
  settings   jsonb       not null,
  changed_at timestamptz not null
);
-- What opens the first start, or mends a lost office account: good once, and for a time.
create table first_keys (
  digest  bytea       primary key,
  address text        not null, -- of the account it mends; empty: whatever is said
  until   timestamptz not null
);
