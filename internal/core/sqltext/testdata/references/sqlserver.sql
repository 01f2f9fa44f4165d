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
    IF UPDATE(depth/*r dbo.berth.depth*/)
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
CREATE PROC p AS WITH x AS (SELECT no/*r dbo.berth.no*/, ROW_NUMBER() OVER (PARTITION BY harbour_id/*r dbo.berth.harbour_id*/ ORDER BY depth/*r dbo.berth.depth*/) AS r FROM dbo.berth/*r dbo.berth*/) DELETE FROM x/*w dbo.berth*/ WHERE r > 1
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
---
CREATE PROCEDURE dbo.p @h int = NULL, @t dbo.metres/*t dbo.metres*/ READONLY AS
BEGIN
    DECLARE @n int, @name nvarchar(20) = N'x';
    SELECT @n = COUNT(*), @name = MAX(b.name/*r dbo.berth.name*/) FROM dbo.berth/*r dbo.berth*/ AS b WITH (NOLOCK) WHERE b.harbour_id/*r dbo.berth.harbour_id*/ = ISNULL(@h, b.harbour_id/*r dbo.berth.harbour_id*/);
    IF @n > 0
    BEGIN
        INSERT INTO dbo.log/*w dbo.log*/ (id/*w dbo.log.id*/, what/*w dbo.log.what*/) SELECT m.id/*r dbo.mooring.id*/, m.vessel/*r dbo.mooring.vessel*/ FROM dbo.mooring/*r dbo.mooring*/ AS m INNER JOIN dbo.berth/*r dbo.berth*/ AS b ON b.no/*r dbo.berth.no*/ = m.berth_no/*r dbo.mooring.berth_no*/ WHERE b.depth/*r dbo.berth.depth*/ > @n
    END
    ELSE
        SELECT h.code/*r dbo.harbour.code*/, h.title/*r dbo.harbour.title*/ FROM dbo.harbour/*r dbo.harbour*/ h ORDER BY h.code/*r dbo.harbour.code*/
    WHILE @n > 0 SET @n -= 1
    RETURN
END
---
CREATE FUNCTION dbo.f (@no int) RETURNS nvarchar(50) AS
BEGIN
    DECLARE @r nvarchar(50)
    SELECT TOP (1) @r = vessel/*r dbo.mooring.vessel*/ FROM dbo.mooring/*r dbo.mooring*/ WHERE berth_no/*r dbo.mooring.berth_no*/ = @no ORDER BY length/*r dbo.mooring.length*/ DESC
    SET @r = ISNULL(@r, (SELECT code/*r dbo.harbour.code*/ FROM dbo.harbour/*r dbo.harbour*/ WHERE id/*r dbo.harbour.id*/ = @no))
    RETURN @r + dbo.charge/*c dbo.charge*/(@no)
END
---
-- trigger dbo.berth
CREATE TRIGGER dbo.t ON dbo.berth INSTEAD OF INSERT, UPDATE NOT FOR REPLICATION AS
IF NOT EXISTS (SELECT * FROM inserted/*r dbo.berth*/) RETURN
SET NOCOUNT ON
INSERT dbo.berth/*w dbo.berth*/ (no/*w dbo.berth.no*/, name/*w dbo.berth.name*/) SELECT no/*r dbo.berth.no*/, name/*r dbo.berth.name*/ FROM inserted/*r dbo.berth*/ WHERE depth/*r dbo.berth.depth*/ > 0
UPDATE b/*w dbo.berth*/ SET b.depth/*w dbo.berth.depth*/ = i.depth/*r dbo.berth.depth*/ FROM dbo.berth/*r dbo.berth*/ b INNER JOIN inserted/*r dbo.berth*/ i ON i.no/*r dbo.berth.no*/ = b.no/*r dbo.berth.no*/
IF UPDATE(name/*r dbo.berth.name*/) OR COLUMNS_UPDATED() & 2 > 0 INSERT dbo.log/*w dbo.log*/ (what/*w dbo.log.what*/) SELECT CONCAT(d.name/*r dbo.berth.name*/, N'>', i.name/*r dbo.berth.name*/) FROM inserted/*r dbo.berth*/ i JOIN deleted/*r dbo.berth*/ d ON d.no/*r dbo.berth.no*/ = i.no/*r dbo.berth.no*/
---
-- trigger dbo.berth
CREATE TRIGGER dbo.t ON dbo.berth FOR DELETE AS DELETE m/*w dbo.mooring*/ FROM dbo.mooring/*r dbo.mooring*/ m WHERE m.berth_no/*r dbo.mooring.berth_no*/ IN (SELECT no/*r dbo.berth.no*/ FROM deleted/*r dbo.berth*/)
---
CREATE PROC p AS
WITH tree AS (
    SELECT no/*r dbo.berth.no*/, harbour_id/*r dbo.berth.harbour_id*/, 0 AS lvl FROM dbo.berth/*r dbo.berth*/ WHERE harbour_id/*r dbo.berth.harbour_id*/ IS NULL
    UNION ALL
    SELECT b.no/*r dbo.berth.no*/, b.harbour_id/*r dbo.berth.harbour_id*/, t.lvl + 1 FROM dbo.berth/*r dbo.berth*/ b JOIN tree t ON t.no = b.harbour_id/*r dbo.berth.harbour_id*/
)
SELECT no, lvl FROM tree OPTION (MAXRECURSION 100);
---
CREATE PROC p AS
UPDATE dbo.berth/*w dbo.berth*/ SET name/*w dbo.berth.name*/ = UPPER(name/*r dbo.berth.name*/), depth/*w dbo.berth.depth*/ += 1 OUTPUT inserted.no/*r dbo.berth.no*/, deleted.depth/*r dbo.berth.depth*/ INTO dbo.log/*w dbo.log*/ (id/*w dbo.log.id*/, what/*w dbo.log.what*/) FROM dbo.harbour/*r dbo.harbour*/ h WHERE h.id/*r dbo.harbour.id*/ = dbo.berth.harbour_id/*r dbo.berth.harbour_id*/
---
CREATE PROC p AS UPDATE TOP (10) b/*w dbo.berth*/ SET b.name/*w dbo.berth.name*/ = x.title FROM berth/*r dbo.berth*/ b CROSS APPLY (SELECT TOP 1 title/*r dbo.harbour.title*/ FROM harbour/*r dbo.harbour*/ h WHERE h.id/*r dbo.harbour.id*/ = b.harbour_id/*r dbo.berth.harbour_id*/ ORDER BY code/*r dbo.harbour.code*/) x
---
CREATE PROC p AS DELETE TOP (5) FROM dbo.log/*w dbo.log*/ WHERE id/*r dbo.log.id*/ < (SELECT MIN(id/*r dbo.mooring.id*/) FROM dbo.mooring/*r dbo.mooring*/)
---
CREATE PROC p AS
DECLARE @found TABLE (no int PRIMARY KEY, called nvarchar(20) NULL)
INSERT @found (no, called) SELECT no/*r dbo.berth.no*/, name/*r dbo.berth.name*/ FROM dbo.berth/*r dbo.berth*/
UPDATE f SET called = h.title/*r dbo.harbour.title*/ FROM @found f JOIN dbo.harbour/*r dbo.harbour*/ h ON h.id/*r dbo.harbour.id*/ = f.no
DELETE FROM @found WHERE no NOT IN (SELECT berth_no/*r dbo.mooring.berth_no*/ FROM dbo.mooring/*r dbo.mooring*/)
SELECT f.called FROM @found AS f
---
CREATE PROC p AS
CREATE TABLE #x (id int IDENTITY(1, 1), what nvarchar(50))
INSERT INTO #x (what) EXEC dbo.note/*c dbo.note*/ 1
MERGE INTO dbo.log/*w dbo.log; w dbo.log.id; w dbo.log.what; w dbo.log.at*/ WITH (HOLDLOCK) AS t USING #x AS s ON (t.id/*r dbo.log.id*/ = s.id)
WHEN MATCHED AND t.what/*r dbo.log.what*/ <> s.what THEN UPDATE SET t.what/*w dbo.log.what*/ = s.what
WHEN NOT MATCHED THEN INSERT VALUES (s.id, s.what)
OUTPUT $action, inserted.id/*r dbo.log.id*/;
DROP TABLE #x
---
CREATE PROC p @table sysname AS
DECLARE @sql nvarchar(max) = N'SELECT COUNT(*) FROM ' + QUOTENAME(@table)
EXEC sp_executesql @sql/*?*/, N'@n int OUTPUT', @n = @n OUTPUT
EXECUTE ('UPDATE dbo.berth/*~w dbo.berth*/ SET depth/*~w dbo.berth.depth*/ = 0')
EXEC sys.sp_executesql @stmt = N'DELETE FROM dbo.log/*~w dbo.log*/ WHERE id/*~r dbo.log.id*/ = 1'
---
CREATE PROC p AS
BEGIN TRANSACTION
SAVE TRANSACTION s
DELETE dbo.log/*w dbo.log*/
IF @@ERROR <> 0 GOTO failed
COMMIT TRANSACTION
RETURN 0
failed:
ROLLBACK TRANSACTION
INSERT dbo.log/*w dbo.log*/ (what/*w dbo.log.what*/) VALUES (N'failed')
RETURN 1
---
CREATE VIEW v AS SELECT b.no/*r dbo.berth.no*/, STUFF((SELECT ',' + m.vessel/*r dbo.mooring.vessel*/ FROM dbo.mooring/*r dbo.mooring*/ m WHERE m.berth_no/*r dbo.mooring.berth_no*/ = b.no/*r dbo.berth.no*/ FOR XML PATH(''), TYPE).value('.', 'nvarchar(max)'), 1, 1, '') AS vessels FROM dbo.berth/*r dbo.berth*/ b
---
CREATE VIEW v AS SELECT b.no/*r dbo.berth.no*/, LAG(b.depth/*r dbo.berth.depth*/, 1, 0) OVER (PARTITION BY b.harbour_id/*r dbo.berth.harbour_id*/ ORDER BY b.no/*r dbo.berth.no*/) AS before, SUM(b.depth/*r dbo.berth.depth*/) OVER (ORDER BY b.no/*r dbo.berth.no*/ ROWS UNBOUNDED PRECEDING) AS so_far FROM dbo.berth/*r dbo.berth*/ b
---
CREATE VIEW v AS SELECT h.code/*r dbo.harbour.code*/, IIF(b.depth/*r dbo.berth.depth*/ > 5, N'deep', b.name/*r dbo.berth.name*/) AS d, TRY_CAST(b.depth/*r dbo.berth.depth*/ AS int), FORMAT(b.depth/*r dbo.berth.depth*/, 'N2'), CHOOSE(b.no/*r dbo.berth.no*/, 'a', h.title/*r dbo.harbour.title*/), COALESCE(b.name/*r dbo.berth.name*/, h.code/*r dbo.harbour.code*/) FROM dbo.harbour/*r dbo.harbour*/ h LEFT JOIN dbo.berth/*r dbo.berth*/ b ON b.harbour_id/*r dbo.berth.harbour_id*/ = h.id/*r dbo.harbour.id*/
---
CREATE VIEW v AS SELECT no/*r dbo.berth.no*/ FROM dbo.berth/*r dbo.berth*/ EXCEPT SELECT berth_no/*r dbo.mooring.berth_no*/ FROM dbo.mooring/*r dbo.mooring*/
---
CREATE VIEW v AS SELECT u.k, u.val FROM (SELECT no/*r dbo.berth.no*/, CAST(depth/*r dbo.berth.depth*/ AS int) AS d, harbour_id/*r dbo.berth.harbour_id*/ AS h FROM dbo.berth/*r dbo.berth*/) s UNPIVOT (val FOR k IN (d, h)) AS u
---
CREATE VIEW v AS SELECT TOP 100 PERCENT [b].[name]/*r dbo.berth.name*/ AS [the name], [b].no/*r dbo.berth.no*/ FROM [dbo].[berth]/*r dbo.berth*/ [b] WHERE [b].[name]/*r dbo.berth.name*/ LIKE N'%[0-9]%' ESCAPE '!' ORDER BY [b].[no]/*r dbo.berth.no*/ DESC
---
CREATE VIEW v AS SELECT x.id/*r dbo.log.id*/, y.n FROM dbo.log/*r dbo.log*/ x CROSS APPLY (VALUES (x.what/*r dbo.log.what*/, 1), (N'b', 2)) AS y (w, n) WHERE y.w = N'a'
---
CREATE VIEW v AS SELECT GROUPING(harbour_id/*r dbo.berth.harbour_id*/) AS g, harbour_id/*r dbo.berth.harbour_id*/, SUM(depth/*r dbo.berth.depth*/) AS s FROM dbo.berth/*r dbo.berth*/ GROUP BY ROLLUP (harbour_id/*r dbo.berth.harbour_id*/), name/*r dbo.berth.name*/
---
CREATE VIEW v AS SELECT b.name/*r dbo.berth.name*/ FROM dbo.berth/*r dbo.berth*/ b WHERE b.depth/*r dbo.berth.depth*/ >= ALL (SELECT m.length/*r dbo.mooring.length*/ FROM dbo.mooring/*r dbo.mooring*/ m) AND b.no/*r dbo.berth.no*/ = ANY (SELECT id/*r dbo.harbour.id*/ FROM dbo.harbour/*r dbo.harbour*/) AND b.name/*r dbo.berth.name*/ IS NOT NULL
---
CREATE VIEW v AS SELECT d.name, d.n FROM (SELECT name/*r dbo.berth.name*/, COUNT(*) FROM dbo.berth/*r dbo.berth*/ GROUP BY name/*r dbo.berth.name*/) AS d (name, n)
---
CREATE VIEW v AS SELECT b.name/*r dbo.berth.name*/, dbo.charge/*c dbo.charge*/(b.no/*r dbo.berth.no*/) AS c, t.* FROM dbo.berth/*r dbo.berth*/ b OUTER APPLY dbo.deepest/*c dbo.deepest*/(b.no/*r dbo.berth.no*/) t
---
CREATE VIEW v AS SELECT JSON_VALUE(l.what/*r dbo.log.what*/, '$.a') AS a, j.[key], o.n FROM dbo.log/*r dbo.log*/ l CROSS APPLY OPENJSON(l.what/*r dbo.log.what*/) j CROSS APPLY OPENJSON(l.what/*r dbo.log.what*/, '$.x') WITH (n int '$.n', what nvarchar(9)) o
---
CREATE PROC p AS SELECT no/*r dbo.berth.no*/, name/*r dbo.berth.name*/ INTO dbo.kept FROM dbo.berth/*r dbo.berth*/ WHERE depth/*r dbo.berth.depth*/ > 1 SELECT 1
---
CREATE PROC p AS
DECLARE c CURSOR SCROLL DYNAMIC FOR SELECT b.no/*r dbo.berth.no*/ FROM dbo.berth/*r dbo.berth*/ b WHERE b.depth/*r dbo.berth.depth*/ > 1 FOR UPDATE OF depth
OPEN c
FETCH FIRST FROM c
UPDATE dbo.berth/*w dbo.berth*/ SET depth/*w dbo.berth.depth*/ = 2 WHERE CURRENT OF c
CLOSE c DEALLOCATE c
---
CREATE PROC p @x xml AS SELECT t.c.value('@no', 'int') AS no, b.name/*r dbo.berth.name*/ FROM @x.nodes('/b') AS t(c) JOIN dbo.berth/*r dbo.berth*/ b ON b.no/*r dbo.berth.no*/ = t.c.value('@no', 'int')
---
CREATE PROC p AS IF (SELECT COUNT(*) FROM dbo.log/*r dbo.log*/) > (SELECT COUNT(*) FROM dbo.mooring/*r dbo.mooring*/) PRINT 'more' ELSE PRINT 'less'
---
CREATE PROC p AS BEGIN TRY EXEC dbo.note/*c dbo.note*/ END TRY BEGIN CATCH DECLARE @m nvarchar(99) = ERROR_MESSAGE(); INSERT INTO dbo.log/*w dbo.log*/ (what/*w dbo.log.what*/) SELECT @m WHERE NOT EXISTS (SELECT 1 FROM dbo.log/*r dbo.log*/ WHERE what/*r dbo.log.what*/ = @m); THROW 50000, @m, 1; END CATCH
---
CREATE PROC p AS SET IDENTITY_INSERT dbo.log ON; INSERT INTO dbo.log/*w dbo.log*/ (id/*w dbo.log.id*/, what/*w dbo.log.what*/) VALUES (NEXT VALUE FOR dbo.berth_no/*n dbo.berth_no*/, N'x'); SET IDENTITY_INSERT dbo.log OFF; DBCC CHECKIDENT ('dbo.log')
---
CREATE FUNCTION dbo.f () RETURNS TABLE AS RETURN WITH x AS (SELECT no/*r dbo.berth.no*/, name/*r dbo.berth.name*/ FROM dbo.berth/*r dbo.berth*/) SELECT x.no, h.code/*r dbo.harbour.code*/ FROM x LEFT OUTER JOIN dbo.harbour/*r dbo.harbour*/ h ON h.id/*r dbo.harbour.id*/ = x.no
---
CREATE FUNCTION dbo.f (@n int) RETURNS @r TABLE (no int, name nvarchar(9)) AS BEGIN DECLARE @i int = 0; WHILE @i < @n BEGIN INSERT @r (no, name) SELECT no/*r dbo.berth.no*/, name/*r dbo.berth.name*/ FROM dbo.berth/*r dbo.berth*/ WHERE no/*r dbo.berth.no*/ = @i; SET @i = @i + 1; END RETURN; END
---
CREATE PROC p AS SELECT b.no/*r dbo.berth.no*/ FROM dbo.berth/*r dbo.berth*/ b WITH (INDEX (ix_b), ROWLOCK) INNER LOOP JOIN dbo.mooring/*r dbo.mooring*/ m WITH (READPAST) ON m.berth_no/*r dbo.mooring.berth_no*/ = b.no/*r dbo.berth.no*/ OPTION (HASH JOIN, RECOMPILE)
---
CREATE PROC p @n int AS SELECT name/*r dbo.berth.name*/ FROM dbo.berth/*r dbo.berth*/ WHERE no/*r dbo.berth.no*/ = @n AND depth/*r dbo.berth.depth*/ BETWEEN @n AND @n + 1 ORDER BY CASE WHEN @n = 1 THEN name/*r dbo.berth.name*/ END, no/*r dbo.berth.no*/ OFFSET @n ROWS FETCH NEXT 10 ROWS ONLY
---
CREATE PROC p AS EXEC dbo.note/*c dbo.note*/ @what = N'x', @n = DEFAULT; EXEC dbo.note/*c dbo.note*/ @@ROWCOUNT; DECLARE @r int; EXEC @r = dbo.note/*c dbo.note*/ 1, 2
---
CREATE PROC p AS SELECT h.code/*r dbo.harbour.code*/ FROM dbo.harbour/*r dbo.harbour*/ AS h WHERE h.id/*r dbo.harbour.id*/ IN (SELECT b.harbour_id/*r dbo.berth.harbour_id*/ FROM dbo.berth/*r dbo.berth*/ AS b GROUP BY b.harbour_id/*r dbo.berth.harbour_id*/ HAVING COUNT(DISTINCT b.name/*r dbo.berth.name*/) > 1)
---
CREATE PROC p AS INSERT INTO dbo.berth/*w dbo.berth*/ DEFAULT VALUES; INSERT dbo.log/*w dbo.log; w dbo.log.id; w dbo.log.what; w dbo.log.at*/ VALUES (1, N'a'), (2, (SELECT MAX(title/*r dbo.harbour.title*/) FROM dbo.harbour/*r dbo.harbour*/))
---
CREATE PROC p AS BULK INSERT dbo.log/*w dbo.log; w dbo.log.id; w dbo.log.what; w dbo.log.at*/ FROM 'x' WITH (FIELDTERMINATOR = ',')
---
CREATE PROC p AS SELECT t.height/*r far.dbo.tide.height*/ FROM far.dbo.tide/*r far.dbo.tide*/ AS t WHERE t.id/*r far.dbo.tide.id*/ IN (SELECT no/*r dbo.berth.no*/ FROM berth/*r dbo.berth*/)
---
CREATE PROC p AS SELECT name/*r dbo.berth.name*/ FROM dbo.berth/*r dbo.berth*/ FOR JSON PATH, INCLUDE_NULL_VALUES; SELECT title/*r dbo.harbour.title*/ FROM dbo.harbour/*r dbo.harbour*/ FOR XML AUTO, ELEMENTS
---
CREATE PROC p AS DECLARE @a int = 1; IF @a = 1 BEGIN UPDATE dbo.log/*w dbo.log*/ SET what/*w dbo.log.what*/ = N'a' WHERE id/*r dbo.log.id*/ = @a END ELSE BEGIN DELETE dbo.log/*w dbo.log*/ WHERE id/*r dbo.log.id*/ = @a END; WAITFOR DELAY '00:00:01'
---
-- row dbo.berth
(isnull([name]/*r dbo.berth.name*/,'')+CONVERT([varchar](10),[depth]/*r dbo.berth.depth*/))
---
CREATE PROC p AS SELECT COUNT(*) FROM dbo.berth/*r dbo.berth*/ b, dbo.harbour/*r dbo.harbour*/ h WHERE b.harbour_id/*r dbo.berth.harbour_id*/ = h.id/*r dbo.harbour.id*/ AND h.code/*r dbo.harbour.code*/ COLLATE Latin1_General_BIN = b.name/*r dbo.berth.name*/
---
CREATE PROC p AS SELECT no/*r dbo.berth.no*/ FROM dbo.berth/*r dbo.berth*/ WHERE CONTAINS(name/*r dbo.berth.name*/, 'x') OR FREETEXT((name/*r dbo.berth.name*/), 'y')
---
CREATE PROC p AS SELECT k.[KEY] FROM CONTAINSTABLE(dbo.log/*r dbo.log*/, what/*r dbo.log.what*/, 'x') AS k JOIN dbo.log/*r dbo.log*/ l ON l.id/*r dbo.log.id*/ = k.[KEY]
---
CREATE PROC p AS ;WITH a AS (SELECT no/*r dbo.berth.no*/ FROM dbo.berth/*r dbo.berth*/), b AS (SELECT no FROM a) UPDATE dbo.log/*w dbo.log*/ SET what/*w dbo.log.what*/ = 'x' FROM b WHERE b.no = dbo.log.id/*r dbo.log.id*/
---
CREATE PROC p AS ;WITH a AS (SELECT name/*r dbo.berth.name*/, ROW_NUMBER() OVER (ORDER BY no/*r dbo.berth.no*/) AS r FROM dbo.berth/*r dbo.berth*/) UPDATE a/*w dbo.berth*/ SET name/*w dbo.berth.name*/ = 'x' WHERE r > 1
---
CREATE PROC p AS SELECT CAST(b.depth/*r dbo.berth.depth*/ AS dbo.metres/*t dbo.metres*/), b.no/*r dbo.berth.no*/ % 2, ~b.no/*r dbo.berth.no*/, b.name/*r dbo.berth.name*/ + '' FROM dbo.berth/*r dbo.berth*/ AS b WHERE b.no/*r dbo.berth.no*/ !< 1 AND b.no/*r dbo.berth.no*/ <> 2
---
CREATE PROC p AS SELECT x.c FROM (SELECT COUNT(*) AS c, harbour_id/*r dbo.berth.harbour_id*/ FROM dbo.berth/*r dbo.berth*/ GROUP BY harbour_id/*r dbo.berth.harbour_id*/) x INNER JOIN dbo.harbour/*r dbo.harbour*/ h ON h.id/*r dbo.harbour.id*/ = x.harbour_id
---
CREATE PROC p AS SELECT */*r dbo.log.id; r dbo.log.what; r dbo.log.at*/ FROM dbo.log/*r dbo.log*/ l WHERE l.id/*r dbo.log.id*/ = (SELECT TOP 1 id/*r dbo.log.id*/ FROM dbo.log/*r dbo.log*/ WHERE what/*r dbo.log.what*/ = l.what/*r dbo.log.what*/)
---
CREATE VIEW v AS SELECT s.a FROM (SELECT no/*r dbo.berth.no*/ a, name/*r dbo.berth.name*/ FROM berth/*r dbo.berth*/) s WHERE s.name > ''
---
CREATE PROC p AS DECLARE @d dbo.metres/*t dbo.metres*/; SET @d = (SELECT MAX(depth/*r dbo.berth.depth*/) FROM dbo.berth/*r dbo.berth*/); RAISERROR(N'%d', 10, 1, @d) WITH NOWAIT; TRUNCATE TABLE dbo.log/*w dbo.log*/
---
CREATE PROC p @t sysname, @v nvarchar(9) AS
EXEC (N'DELETE FROM dbo.' + QUOTENAME(N'log'/*~w dbo.log*/) + N' WHERE id/*~r dbo.log.id*/ = ' + @v)
EXEC ('SELECT 1 FROM dbo.[' + @t + ']'/*?*/)
---
CREATE PROC p @v int AS
DECLARE @sql nvarchar(max), @other nvarchar(max), @third nvarchar(max)
SET @sql = N'UPDATE dbo.log/*~w dbo.log*/ SET what/*~w dbo.log.what*/ = 1'
IF @v > 1 SET @sql += N' WHERE id/*~r dbo.log.id*/ = 3'
EXEC sp_executesql @sql
SELECT @other = N'DELETE FROM dbo.berth/*~w dbo.berth*/', @third = what/*r dbo.log.what*/ FROM dbo.log/*r dbo.log*/
EXEC (@other)
EXEC (@third/*?*/)
