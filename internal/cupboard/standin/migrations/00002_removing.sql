-- +goose Up
-- What is removed takes its versions, its answers and the pointers to it along.
alter table standin.versions drop constraint versions_thing_fkey, add foreign key (thing) references standin.things on delete cascade;
alter table standin.answers drop constraint answers_thing_fkey, add foreign key (thing) references standin.things on delete cascade;
alter table standin.things drop constraint things_target_fkey, add foreign key (target) references standin.things on delete cascade;
