-- People of the shop, where they are signed in, and what each of them changed.

-- The demo opens on its own machine without signing in, whatever it is called.
ALTER TABLE shop ADD COLUMN is_demo boolean NOT NULL DEFAULT false;
UPDATE shop SET is_demo = true WHERE name = 'Long Bend Exhausts';

CREATE TABLE people (
    id integer GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    name text NOT NULL CONSTRAINT person_name_length CHECK (char_length(name) BETWEEN 1 AND 40),
    role text NOT NULL CONSTRAINT person_role_known CHECK (role IN ('owner', 'fabricator', 'front desk')),
    password_hash text NOT NULL,
    -- a password given by somebody else: to be changed at the first sign-in
    must_change boolean NOT NULL DEFAULT false,
    gone boolean NOT NULL DEFAULT false,
    failed integer NOT NULL DEFAULT 0,
    locked_until timestamptz,
    made_at timestamptz NOT NULL DEFAULT now()
);
CREATE UNIQUE INDEX people_by_name ON people (lower(name)) WHERE NOT gone;

CREATE TABLE sessions (
    token_hash text PRIMARY KEY CONSTRAINT session_token_hash CHECK (token_hash ~ '^[0-9a-f]{64}$'),
    person_id integer NOT NULL REFERENCES people ON DELETE CASCADE,
    device text NOT NULL DEFAULT '' CONSTRAINT session_device_length CHECK (char_length(device) <= 200),
    address text NOT NULL DEFAULT '' CONSTRAINT session_address_length CHECK (char_length(address) <= 64),
    made_at timestamptz NOT NULL DEFAULT now(),
    seen_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sessions_of_a_person ON sessions (person_id);

CREATE TABLE audit (
    id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY,
    who text NOT NULL CONSTRAINT audit_who_length CHECK (char_length(who) <= 80),
    what text NOT NULL CONSTRAINT audit_what_length CHECK (char_length(what) <= 200),
    job_id integer,
    address text NOT NULL DEFAULT '' CONSTRAINT audit_address_length CHECK (char_length(address) <= 64),
    made_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX audit_newest ON audit (made_at DESC);
CREATE INDEX audit_of_a_job ON audit (job_id, made_at DESC);
