-- +goose Up
-- Handouts of several classes that are one: what they have in common is changed together.
alter table handouts add column together uuid;
create index handouts_together on handouts (together) where together is not null;
create unique index handouts_once on handouts (together, class_id) where together is not null;
