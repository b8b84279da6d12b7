-- +goose Up
-- Headings that a class's handouts stand under, in their teacher's order; the first has
-- the lowest place. So have handouts under one heading, and those under none.
create table headings (
  id       uuid primary key,
  class_id uuid    not null references classes on delete cascade,
  title    text    not null,
  place    integer not null,
  folded   boolean not null default false
);
create index headings_class on headings (class_id);
alter table handouts
  add column heading uuid references headings on delete set null,
  add column place   integer not null default 0;
