-- +goose Up
-- The latest moment that was taken to have come where something closes: no clock that is behind opens it again.
create table passed (
  one boolean primary key default true check (one),
  at  timestamptz not null
);
insert into passed (at) values ('epoch');
