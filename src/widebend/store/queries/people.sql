-- name: people
-- Everybody who works here, and who did.
SELECT id, name, role, must_change, gone, locked_until FROM people ORDER BY gone, lower(name);

-- name: person_by_name^
-- Somebody who works here, to be signed in.
SELECT id, name, role, password_hash, must_change FROM people WHERE lower(name) = lower(:name) AND NOT gone;

-- name: person_by_id^
-- Somebody who works here.
SELECT id, name, role, password_hash, must_change FROM people WHERE id = :person_id AND NOT gone;

-- name: owners$
-- How many owners there are.
SELECT count(*) FROM people WHERE role = 'owner' AND NOT gone;

-- name: add_person$
-- Somebody new.
INSERT INTO people (name, role, password_hash, must_change) VALUES (:name, :role, :password_hash, :must_change)
ON CONFLICT DO NOTHING RETURNING id;

-- name: note_sign_in_try!
-- A wrong password.
INSERT INTO sign_in_tries (name, address) VALUES (lower(:name), :address);

-- name: sign_in_tries^
-- Wrong passwords lately from an address: for a name, and for any.
SELECT count(*) FILTER (WHERE name = lower(:name)) AS of_name, count(*) AS of_address FROM sign_in_tries
WHERE address = :address AND made_at > now() - make_interval(mins => :minutes) AND made_at <= now();

-- name: forget_sign_in_tries!
-- A right password, or a new one: wrong ones of that name are forgotten, and all that are old.
DELETE FROM sign_in_tries WHERE name = lower(:name) OR made_at < now() - interval '1 day';

-- name: set_password!
-- Another password.
UPDATE people SET password_hash = :password_hash, must_change = :must_change, failed = 0, locked_until = NULL
WHERE id = :person_id;

-- name: set_role!
-- Another role.
UPDATE people SET role = :role WHERE id = :person_id;

-- name: person_goes!
-- Somebody works here no more: what they did stays under their name.
UPDATE people SET gone = true WHERE id = :person_id;

-- name: forget_people!
-- People who never were: those of the demo.
DELETE FROM people WHERE name = ANY(:names);

-- name: add_session!
-- Somebody signed in on a device.
INSERT INTO sessions (token_hash, person_id, device, address) VALUES (:token_hash, :person_id, :device, :address);

-- name: session^
-- Who is signed in.
SELECT p.id, p.name, p.role, p.must_change FROM sessions s JOIN people p ON p.id = s.person_id
WHERE s.token_hash = :token_hash AND NOT p.gone AND s.seen_at > now() - interval '30 days';

-- name: session_seen!
-- Not more often than every few minutes.
UPDATE sessions SET seen_at = now() WHERE token_hash = :token_hash AND seen_at < now() - interval '5 minutes';

-- name: sessions_of
-- Where somebody is signed in.
SELECT token_hash, device, address, made_at, seen_at FROM sessions WHERE person_id = :person_id ORDER BY seen_at DESC;

-- name: end_session!
-- Signed out.
DELETE FROM sessions WHERE token_hash = :token_hash;

-- name: end_session_of!
-- One of somebody's sessions ended from elsewhere.
DELETE FROM sessions WHERE person_id = :person_id AND left(token_hash, 16) = :start;

-- name: end_sessions_of!
-- All of somebody's sessions but one.
DELETE FROM sessions WHERE person_id = :person_id AND token_hash <> :but;

-- name: note_audit!
-- Somebody did something.
INSERT INTO audit (who, what, job_id, address) VALUES (:who, :what, :job_id, :address);

-- name: note_audit_if_changed^
-- Who did what, where this transaction changed anything: one that did has a number.
INSERT INTO audit (who, what, job_id, address) SELECT :who, :what, :job_id::integer, :address
WHERE pg_current_xact_id_if_assigned() IS NOT NULL RETURNING true AS noted;

-- name: audit_list
-- What was done, the newest first, of all or of one job, one person.
SELECT id, who, what, job_id, address, made_at FROM audit
WHERE (:job_id::integer IS NULL OR job_id = :job_id) AND (:who::text IS NULL OR who = :who)
    AND (:before::bigint IS NULL OR id < :before)
ORDER BY id DESC LIMIT :most;
