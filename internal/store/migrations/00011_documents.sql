-- +goose Up
-- A handout gives several documents; which, its settings say.
update handouts set settings = settings || jsonb_build_object('documents',
  case when template_id is null then '[]'::jsonb else jsonb_build_array(jsonb_build_object('slot', 1, 'template', template_id)) end);
alter table handouts drop column template_id;
