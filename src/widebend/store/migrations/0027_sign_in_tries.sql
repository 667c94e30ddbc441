-- Wrong passwords by the name that was typed and where it came from: who guesses shuts out himself, not whose name it is.
CREATE TABLE sign_in_tries (
    name text NOT NULL CONSTRAINT try_name_length CHECK (char_length(name) <= 80),
    address text NOT NULL CONSTRAINT try_address_length CHECK (char_length(address) <= 64),
    made_at timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sign_in_tries_lately ON sign_in_tries (made_at);
