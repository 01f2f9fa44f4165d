CREATE PROCEDURE quay.haul @ropes quay.ropes READONLY, @code AS quay.code = 'A', @all [quay].[ropes] READONLY
AS
BEGIN
  DECLARE @mine quay.ropes, @c quay.code;
  -- quay. in a comment is kept
  EXEC quay.haul @ropes, @code;
  EXECUTE @rc = [quay].haul @code = 'x';
  PRINT 'quay.x is kept';
  TRUNCATE TABLE quay.rope;
  MERGE INTO quay.mooring AS m USING quay.rope AS r ON m.id = r.id WHEN MATCHED THEN UPDATE SET fee = quay.usual_fee() WHEN NOT MATCHED THEN INSERT (id) VALUES (NEXT VALUE FOR quay.ticket);
  UPDATE quay.rope SET id = 1 FROM quay.rope CROSS APPLY quay.may_see(quay.rope.id) a;
  INSERT quay.rope (id) OUTPUT inserted.id INTO quay.note (flag) SELECT id FROM quay.mooring WHERE EXISTS (SELECT 1 FROM quay.rope WHERE quay.rope.id = quay.mooring.id);
  DELETE FROM quay.rope OUTPUT deleted.id WHERE id IN (SELECT id FROM [quay].mooring);
  ALTER TABLE quay.rope NOCHECK CONSTRAINT ALL;
  UPDATE STATISTICS quay.rope;
  DROP TABLE IF EXISTS quay.old;
  SELECT m.quay AS kept
  FROM quay.mooring m;
  SELECT * FROM archive.quay.rope; -- of another database: kept
  SELECT * FROM moorings.quay.rope JOIN [Moorings].[quay].[mooring] m ON m.id = 1;
  EXEC moorings.quay.haul @ropes, @code;
  SET IDENTITY_INSERT quay.rope ON;
  CREATE TABLE quay.fresh (id int REFERENCES quay.mooring (id), c quay.code);
  DISABLE TRIGGER quay.rope_1 ON quay.rope;
END
