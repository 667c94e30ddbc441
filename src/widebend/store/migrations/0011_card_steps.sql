-- A tick made without a connection is sent later, perhaps twice: a stroke counts once.
CREATE TABLE card_strokes (
    stroke uuid PRIMARY KEY,
    made_at timestamptz NOT NULL DEFAULT now()
);

-- How far a piece has come at the bench, for its shape then; and how long it took, with a picture.
CREATE TABLE card_steps (
    document_id integer NOT NULL REFERENCES documents ON DELETE CASCADE,
    run_id text NOT NULL,
    piece_id text NOT NULL,
    step text NOT NULL CONSTRAINT card_step_known CHECK (step IN ('cut', 'face', 'deburr', 'clean', 'tack')),
    shape text NOT NULL,
    made_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (document_id, run_id, piece_id, step)
);

ALTER TABLE card_marks ADD COLUMN seconds integer NOT NULL DEFAULT 0 CONSTRAINT card_seconds CHECK (seconds BETWEEN 0 AND 86400);

CREATE TABLE card_photos (
    document_id integer NOT NULL REFERENCES documents ON DELETE CASCADE,
    run_id text NOT NULL,
    piece_id text NOT NULL,
    sha256 text NOT NULL,
    made_at timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (document_id, run_id, piece_id, sha256)
);
