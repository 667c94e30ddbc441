-- Who changed what is only added to: no statement of the program, meant or slipped in, alters or strikes a line of it.
CREATE FUNCTION refuse_to_alter_audit() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'lines of the audit are never altered or deleted';
END
$$;
CREATE TRIGGER audit_only_grows BEFORE UPDATE OR DELETE OR TRUNCATE ON audit
    FOR EACH STATEMENT EXECUTE FUNCTION refuse_to_alter_audit();
