-- +goose Up
-- A class whose members are teachers of the school, and not students.
alter table classes add column of_staff boolean not null default false;
