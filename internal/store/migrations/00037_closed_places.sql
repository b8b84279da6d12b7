-- +goose Up
-- What was said by hand of a class's places, by their ids, and the extra time that rows have in every
-- handout of the class.
alter table classes add pens jsonb not null default '{}', add extra_time jsonb not null default '{}';
