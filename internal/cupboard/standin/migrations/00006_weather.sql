-- +goose Up
-- What the stand-ins were told to suffer, for the next start of the program.
create table standin.weather (name text primary key, said jsonb not null);
