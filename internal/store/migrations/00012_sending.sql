-- +goose Up
-- A handout can be packed by itself at a set time: a wall-clock time in its zone, who
-- said so, and why it couldn't be done then.
alter table handouts
  add column send         timestamp,
  add column send_by      text not null default '',
  add column send_problem jsonb;
