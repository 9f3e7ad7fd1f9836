-- What fails has a code, the same one everywhere.
alter table intake_errors rename column fault to code;
update intake_errors set code = case code when 'resting' then 'paused' when 'refused values' then 'refused-values' when 'disk' then 'disk-low' else code end;
update accounts
set last_error = (last_error - 'fault') || jsonb_build_object('code',
  case last_error ->> 'fault' when 'resting' then 'paused' when 'refused values' then 'refused-values' when 'disk' then 'disk-low' else last_error ->> 'fault' end)
where last_error ? 'fault';
update collections
set last_error = (last_error - 'fault') || jsonb_build_object('code',
  case last_error ->> 'fault' when 'resting' then 'paused' when 'refused values' then 'refused-values' when 'disk' then 'disk-low' else last_error ->> 'fault' end)
where last_error ? 'fault';
