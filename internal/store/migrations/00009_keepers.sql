-- +goose Up
-- Who owns what was made in a class in the cupboard, where that isn't its owner
-- teacher: the school. '': the owner teacher.
alter table classes add column held_by text not null default '';
