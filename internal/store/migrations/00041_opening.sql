-- +goose Up
-- When a class's students come to have what is made for them; null: at once.
alter table classes add opening jsonb;
