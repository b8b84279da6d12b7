-- +goose Up
-- Where we put a thing last, as packing says it, and the folder that is in the
-- cupboard: '' of things made before this was kept.
alter table ledger add column spot text not null default '';
alter table ledger add column put_in text not null default '';

-- What became of a thing behind our back and was left as it is, on purpose.
create table let_be (
  class_id uuid not null references classes on delete cascade,
  key      text not null,
  by       text not null,
  at       timestamptz not null,
  primary key (class_id, key)
);

-- What a run does: 'pack', or 'discard' what a person asked to bin. How many of the
-- class its list left out, and which of its lines give somebody access.
alter table runs add column kind text not null default 'pack' check (kind in ('pack', 'discard'));
alter table runs add column left_out integer not null default 0;
alter table steps add column shares boolean not null default false;

-- Who wished that whoever joins is topped up by itself; '': nobody.
alter table classes add column keep_in_step text not null default '';
