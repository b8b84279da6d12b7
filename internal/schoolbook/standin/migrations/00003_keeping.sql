-- +goose Up
alter table schoolbook.accounts
  add off        boolean     not null default false,
  add code       text        not null default '', -- hash of the code for the next sign-in
  add code_until timestamptz;
