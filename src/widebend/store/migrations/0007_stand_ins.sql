-- Stand-ins of measuring tools answer where the shop says so: the demo does, a shop's own books never by default.
ALTER TABLE shop ADD COLUMN stand_ins boolean NOT NULL DEFAULT false;
UPDATE shop SET stand_ins = true WHERE name = 'Long Bend Exhausts';
