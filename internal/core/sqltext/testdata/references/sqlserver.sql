-- table dbo.berth: no name depth harbour_id
-- table dbo.mooring: id berth_no vessel length
-- table dbo.harbour: id code title
-- table dbo.log: id what at
-- table far.dbo.tide: id height
-- routine dbo.charge
-- routine dbo.note
-- routine dbo.deepest
-- sequence dbo.berth_no
-- type dbo.metres
-- path dbo
---
CREATE VIEW [dbo].[deep] WITH SCHEMABINDING AS SELECT b.[no]/*r dbo.berth.no*/, [name]/*r dbo.berth.name*/ FROM dbo.berth/*r dbo.berth*/ AS b WHERE b.depth/*r dbo.berth.depth*/ > 3 WITH CHECK OPTION
---
CREATE VIEW v AS SELECT TOP (3) WITH TIES n = no/*r dbo.berth.no*/, [x] = (SELECT COUNT_BIG(*) FROM mooring/*r dbo.mooring*/ WITH (NOLOCK)) FROM berth/*r dbo.berth*/ (nolock) ORDER BY n
---
CREATE VIEW v AS SELECT t.height/*r far.dbo.tide.height*/ FROM far.dbo.tide/*r far.dbo.tide*/ t CROSS APPLY dbo.deepest/*c dbo.deepest*/(t.id/*r far.dbo.tide.id*/) d OUTER APPLY (SELECT TOP 1 vessel/*r dbo.mooring.vessel*/ FROM dbo.mooring/*r dbo.mooring*/ m WHERE m.id/*r dbo.mooring.id*/ = t.id/*r far.dbo.tide.id*/) x
---
CREATE PROCEDURE dbo.tidy @harbour int = 1, @least dbo.metres/*t dbo.metres*/, @gone int OUTPUT AS
BEGIN
    SET NOCOUNT ON;
    DECLARE @n int = (SELECT COUNT(*) FROM dbo.log/*r dbo.log*/), @t TABLE (id int, what nvarchar(20));
    SELECT @n = no/*r dbo.berth.no*/, @gone = @n + 1 FROM dbo.berth/*r dbo.berth*/ WHERE harbour_id/*r dbo.berth.harbour_id*/ = @harbour
    IF @n > 3 AND EXISTS (SELECT 1 FROM dbo.harbour/*r dbo.harbour*/ WHERE id/*r dbo.harbour.id*/ = @harbour)
        UPDATE b/*w dbo.berth*/ SET depth/*w dbo.berth.depth*/ = m.length/*r dbo.mooring.length*/, name/*w dbo.berth.name*/ += 'x' FROM dbo.berth/*r dbo.berth*/ b JOIN dbo.mooring/*r dbo.mooring*/ m ON m.berth_no/*r dbo.mooring.berth_no*/ = b.no/*r dbo.berth.no*/
    ELSE
        DELETE FROM dbo.log/*w dbo.log*/ OUTPUT deleted.id/*r dbo.log.id*/, deleted.what/*r dbo.log.what*/ INTO @t (id, what) WHERE at/*r dbo.log.at*/ < GETDATE()
    INSERT INTO @t SELECT id/*r dbo.log.id*/, what/*r dbo.log.what*/ FROM dbo.log/*r dbo.log*/
    INSERT dbo.log/*w dbo.log*/ (what/*w dbo.log.what*/) SELECT t.what FROM @t t
    EXEC dbo.note/*c dbo.note*/ @n, @level = 3
    EXEC @n = dbo.note/*c dbo.note*/ @n OUTPUT
    RETURN @n
END
---
CREATE PROC p AS
BEGIN TRY
    BEGIN TRAN
    SELECT no/*r dbo.berth.no*/, name/*r dbo.berth.name*/ INTO #found FROM dbo.berth/*r dbo.berth*/
    UPDATE #found SET name = 'x'
    SELECT f.no, b.depth/*r dbo.berth.depth*/ FROM #found f JOIN dbo.berth/*r dbo.berth*/ b ON b.no/*r dbo.berth.no*/ = f.no
    COMMIT
END TRY
BEGIN CATCH
    IF @@TRANCOUNT > 0 ROLLBACK
    INSERT INTO dbo.log/*w dbo.log*/ (what/*w dbo.log.what*/) VALUES (ERROR_MESSAGE());
    THROW;
END CATCH
---
-- trigger dbo.berth
CREATE TRIGGER dbo.berth_log ON dbo.berth AFTER UPDATE AS
BEGIN
    IF UPDATE(depth)
        INSERT INTO dbo.log/*w dbo.log*/ (what/*w dbo.log.what*/) SELECT i.name/*r dbo.berth.name*/ FROM inserted/*r dbo.berth*/ i JOIN deleted/*r dbo.berth*/ d ON d.no/*r dbo.berth.no*/ = i.no/*r dbo.berth.no*/ WHERE i.depth/*r dbo.berth.depth*/ <> d.depth/*r dbo.berth.depth*/
END
---
CREATE PROC p @sql nvarchar(max) AS
EXEC (@sql/*?*/)
EXEC sp_executesql N'SELECT no/*~r dbo.berth.no*/ FROM dbo.berth/*~r dbo.berth*/ WHERE no/*~r dbo.berth.no*/ = @a', N'@a int', @a = 1
EXEC ('DELETE FROM dbo.log/*~w dbo.log*/')
EXEC sp_executesql @sql/*?*/
---
CREATE FUNCTION dbo.f (@no int) RETURNS TABLE AS RETURN (SELECT vessel/*r dbo.mooring.vessel*/ FROM dbo.mooring/*r dbo.mooring*/ WHERE berth_no/*r dbo.mooring.berth_no*/ = @no)
---
CREATE FUNCTION dbo.f (@no int) RETURNS @r TABLE (id int, what nvarchar(9)) AS BEGIN INSERT INTO @r SELECT id/*r dbo.log.id*/, what/*r dbo.log.what*/ FROM dbo.log/*r dbo.log*/ WHERE id/*r dbo.log.id*/ = @no; RETURN END
---
CREATE FUNCTION dbo.f (@no int) RETURNS int WITH SCHEMABINDING AS BEGIN RETURN (SELECT MAX(depth/*r dbo.berth.depth*/) FROM dbo.berth/*r dbo.berth*/) + dbo.charge/*c dbo.charge*/(@no) END
---
MERGE dbo.berth/*w dbo.berth*/ AS t USING (SELECT id/*r dbo.mooring.id*/, vessel/*r dbo.mooring.vessel*/ FROM dbo.mooring/*r dbo.mooring*/) AS s (id, vessel) ON t.no/*r dbo.berth.no*/ = s.id
WHEN MATCHED THEN UPDATE SET name/*w dbo.berth.name*/ = s.vessel WHEN NOT MATCHED BY TARGET THEN INSERT (no/*w dbo.berth.no*/, name/*w dbo.berth.name*/) VALUES (s.id, s.vessel) WHEN NOT MATCHED BY SOURCE THEN DELETE OUTPUT $action, inserted.no/*r dbo.berth.no*/;
---
CREATE PROC p AS
DECLARE c CURSOR LOCAL FAST_FORWARD FOR SELECT code/*r dbo.harbour.code*/ FROM dbo.harbour/*r dbo.harbour*/
DECLARE @code varchar(9)
OPEN c
FETCH NEXT FROM c INTO @code
WHILE @@FETCH_STATUS = 0
BEGIN
    PRINT @code
    FETCH NEXT FROM c INTO @code
END
CLOSE c
DEALLOCATE c
---
CREATE PROC p AS WITH x AS (SELECT no/*r dbo.berth.no*/, ROW_NUMBER() OVER (PARTITION BY harbour_id/*r dbo.berth.harbour_id*/ ORDER BY depth/*r dbo.berth.depth*/) AS r FROM dbo.berth/*r dbo.berth*/) DELETE FROM x WHERE r > 1
---
CREATE VIEW v AS SELECT CONVERT(varchar(9), depth/*r dbo.berth.depth*/, 3), CAST(name/*r dbo.berth.name*/ AS dbo.metres/*t dbo.metres*/), DATEADD(day, no/*r dbo.berth.no*/, GETDATE()), ISNULL(name/*r dbo.berth.name*/, N'x'), IIF(no/*r dbo.berth.no*/ > 1, 1, 0) FROM dbo.berth/*r dbo.berth*/
---
CREATE PROC p AS INSERT INTO dbo.log/*w dbo.log*/ (id/*w dbo.log.id*/) VALUES (NEXT VALUE FOR dbo.berth_no/*n dbo.berth_no*/) IF @@ROWCOUNT = 0 RETURN UPDATE dbo.berth/*w dbo.berth*/ SET depth/*w dbo.berth.depth*/ = 1 WHERE no/*r dbo.berth.no*/ = 1 SELECT 1
---
CREATE PROC p AS INSERT INTO dbo.log/*w dbo.log*/ (what/*w dbo.log.what*/) EXEC dbo.note/*c dbo.note*/ 1
---
CREATE PROC p AS TRUNCATE TABLE dbo.log/*w dbo.log*/ DROP TABLE IF EXISTS #x SELECT title/*r dbo.harbour.title*/ FROM dbo.harbour/*r dbo.harbour*/ FOR XML PATH('x'), ROOT('y') OPTION (RECOMPILE)
---
CREATE VIEW v AS SELECT * FROM dbo.gone/*! dbo.gone*/
---
CREATE VIEW v AS SELECT h.code/*r dbo.harbour.code*/ FROM dbo.harbour/*r dbo.harbour*/ h WHERE h.id/*r dbo.harbour.id*/ IN (SELECT harbour_id/*r dbo.berth.harbour_id*/ FROM dbo.berth/*r dbo.berth*/ WHERE name/*r dbo.berth.name*/ = h.title/*r dbo.harbour.title*/) UNION ALL SELECT vessel/*r dbo.mooring.vessel*/ FROM dbo.mooring/*r dbo.mooring*/
---
-- row dbo.berth
([depth]/*r dbo.berth.depth*/>(0) AND [dbo].[charge]/*c dbo.charge*/([name]/*r dbo.berth.name*/)<(3))
---
CREATE PROC p AS DECLARE @x int SET @x = (SELECT MAX(id/*r dbo.log.id*/) FROM dbo.log/*r dbo.log*/) IF (SELECT COUNT(*) FROM dbo.mooring/*r dbo.mooring*/) > @x BEGIN EXECUTE dbo.note/*c dbo.note*/ END ELSE IF @x IS NULL PRINT 'x' WHILE @x > 0 SET @x -= 1
---
CREATE PROC p AS UPDATE dbo.berth/*w dbo.berth*/ SET name/*w dbo.berth.name*/ = CASE WHEN depth/*r dbo.berth.depth*/ > 1 THEN 'a' ELSE name/*r dbo.berth.name*/ END OUTPUT inserted.name/*r dbo.berth.name*/ WHERE no/*r dbo.berth.no*/ = 3
---
CREATE VIEW v AS SELECT p.a FROM (SELECT no/*r dbo.berth.no*/, depth/*r dbo.berth.depth*/ FROM dbo.berth/*r dbo.berth*/) s PIVOT (SUM(depth) FOR no IN ([1], [2])) p
---
CREATE VIEW v AS SELECT b.no/*r dbo.berth.no*/ FROM dbo.berth/*r dbo.berth*/ b INNER HASH JOIN dbo.mooring/*r dbo.mooring*/ m ON b.no/*r dbo.berth.no*/ = m.berth_no/*r dbo.mooring.berth_no*/ FULL OUTER JOIN dbo.harbour/*r dbo.harbour*/ ON 1 = 1 GROUP BY b.no/*r dbo.berth.no*/ HAVING MAX(m.length/*r dbo.mooring.length*/) > 1
---
CREATE VIEW v AS SELECT value FROM OPENJSON('[]') WITH (a int) x CROSS JOIN dbo.log/*r dbo.log*/
---
CREATE PROC p AS SELECT STRING_AGG(name/*r dbo.berth.name*/, ',') WITHIN GROUP (ORDER BY depth/*r dbo.berth.depth*/) FROM dbo.berth/*r dbo.berth*/ RAISERROR('x', 16, 1) GOTO done done: RETURN
---
CREATE PROC p AS DELETE b/*w dbo.berth*/ FROM dbo.berth/*r dbo.berth*/ AS b WHERE NOT EXISTS (SELECT * FROM dbo.mooring/*r dbo.mooring*/ WHERE berth_no/*r dbo.mooring.berth_no*/ = b.no/*r dbo.berth.no*/)
---
CREATE PROC p AS IF OBJECT_ID('tempdb..#a') IS NOT NULL DROP TABLE #a; CREATE TABLE #a (no int, what nvarchar(9)); INSERT #a (no) SELECT no/*r dbo.berth.no*/ FROM dbo.berth/*r dbo.berth*/; SELECT what FROM #a;
---
CREATE PROC p @a int AS SELECT [a].[no]/*r dbo.berth.no*/ AS 'the number', "name"/*r dbo.berth.name*/ FROM [dbo].[berth]/*r dbo.berth*/ [a] ORDER BY 1 OFFSET 3 ROWS FETCH NEXT @a ROWS ONLY
