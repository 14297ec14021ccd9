-- +goose Up
-- Why a draft could not be made is a code of the catalogue, and no sentence.
update caption set fault = case fault
  when '' then ''
  when 'The captioner is not installed on this machine.' then 'draft.no_tool'
  when 'The captioner does not answer.' then 'draft.down'
  when 'The captioner answers what cannot be read.' then 'draft.nonsense'
  when 'There is no captioner for this language.' then 'draft.language'
  else 'draft.failed' end;

-- +goose Down
update caption set fault = case fault
  when '' then ''
  when 'draft.no_tool' then 'The captioner is not installed on this machine.'
  when 'draft.down' then 'The captioner does not answer.'
  when 'draft.nonsense' then 'The captioner answers what cannot be read.'
  when 'draft.language' then 'There is no captioner for this language.'
  else 'The draft could not be made.' end;
