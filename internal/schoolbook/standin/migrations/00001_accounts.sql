-- +goose Up
create schema if not exists schoolbook;

create table schoolbook.accounts (
  id       text primary key,
  address  text not null,
  given    text not null,
  family   text not null,
  number   text not null,
  role     text not null check (role in ('office', 'staff', 'student')),
  password text not null
);
create unique index on schoolbook.accounts (lower(address));
