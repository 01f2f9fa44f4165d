SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
CREATE USER [alone] WITH PASSWORD = /* the password */, DEFAULT_SCHEMA = [dbo]
GO

CREATE USER [cloud] FROM EXTERNAL PROVIDER WITH DEFAULT_SCHEMA = [dbo]
GO

CREATE APPLICATION ROLE [gate] WITH PASSWORD = /* the password */, DEFAULT_SCHEMA = [quay]
GO

CREATE USER [ghost] WITHOUT LOGIN WITH DEFAULT_SCHEMA = [dbo]
GO

CREATE USER [keyed] FOR ASYMMETRIC KEY [gate_key]
GO

CREATE USER [mate] WITH DEFAULT_SCHEMA = [quay]
GO

CREATE ROLE [hands] AUTHORIZATION [mate]
GO
GRANT VIEW DATABASE STATE TO [hands]
GO
DENY CREATE TABLE TO [hands]
GO

ALTER ROLE [hands] ADD MEMBER [mate]
GO

CREATE USER [signed] FOR CERTIFICATE /* its name */
GO

CREATE USER [stamped] FOR CERTIFICATE [berth seal]]]
GO

CREATE SCHEMA [db_tools]
GO

CREATE SCHEMA [pier]
GO

CREATE SCHEMA [quay]
GO

CREATE TYPE [quay].[code] FROM varchar(8) NOT NULL
GO

CREATE XML SCHEMA COLLECTION [quay].[papers] AS N'<xsd:schema xmlns:xsd="http://www.w3.org/2001/XMLSchema"><xsd:element name="it''s"/></xsd:schema>'
GO

CREATE TYPE [quay].[ropes] AS TABLE (
    [rope] int NOT NULL
)
GO

EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'a handful', @level0type = N'SCHEMA', @level0name = N'quay', @level1type = N'TYPE', @level1name = N'ropes'
GO
GRANT EXECUTE ON TYPE::[quay].[ropes] TO [hands]
GO

CREATE DEFAULT quay.[no fee] AS 0
GO

ALTER DATABASE CURRENT ADD FILEGROUP [COLD]
GO

DECLARE @file nvarchar(max) = N'''' + REPLACE(CAST(SERVERPROPERTY('InstanceDefaultDataPath') AS nvarchar(260)) + DB_NAME() + N'_cold 1.ndf', N'''', N'''''') + N'''';
SET @file = N'ALTER DATABASE CURRENT ADD FILE (NAME = [cold 1], FILENAME = ' + @file + N') TO FILEGROUP [COLD]';
EXEC (@file)
GO

ALTER DATABASE CURRENT MODIFY FILEGROUP [COLD] AUTOGROW_ALL_FILES
GO

ALTER DATABASE CURRENT ADD FILEGROUP [papers] CONTAINS FILESTREAM
GO

DECLARE @file nvarchar(max) = N'''' + REPLACE(CAST(SERVERPROPERTY('InstanceDefaultDataPath') AS nvarchar(260)) + DB_NAME() + N'_papers', N'''', N'''''') + N'''';
SET @file = N'ALTER DATABASE CURRENT ADD FILE (NAME = [papers], FILENAME = ' + @file + N') TO FILEGROUP [papers]';
EXEC (@file)
GO

ALTER DATABASE CURRENT MODIFY FILEGROUP [papers] DEFAULT
GO

CREATE PARTITION FUNCTION [fees] (varbinary(8)) AS RANGE LEFT FOR VALUES (0x00FF)
GO

CREATE PARTITION FUNCTION [flags] (nvarchar(10)) AS RANGE LEFT FOR VALUES (N'it''s', N'Z')
GO

CREATE PARTITION FUNCTION [tides] (datetime) AS RANGE LEFT FOR VALUES ('2025-01-01T06:12:30.007', NULL)
GO

CREATE PARTITION SCHEME [by_tide] AS PARTITION [tides] TO ([PRIMARY], [COLD], [PRIMARY])
GO

CREATE FULLTEXT CATALOG [words]
GO

CREATE FULLTEXT STOPLIST [small words]
GO
ALTER FULLTEXT STOPLIST [small words] ADD N'aboard' LANGUAGE 1033
GO
ALTER FULLTEXT STOPLIST [small words] ADD N'it''s' LANGUAGE 1033
GO

CREATE TABLE [db_tools].[worn] (
    [id] int NOT NULL
)
GO

-- left out: table:quay.far: it is an external table, which is not written yet: an ordinary table would be something else

CREATE TABLE [quay].[fee_was] (
    [id] int NOT NULL,
    [since] datetime2(7) NOT NULL,
    [till] datetime2(7) NOT NULL
)
GO

CREATE TABLE [quay].[fee] (
    [id] int NOT NULL,
    [since] datetime2(7) GENERATED ALWAYS AS ROW START NOT NULL,
    [till] datetime2(7) GENERATED ALWAYS AS ROW END NOT NULL,
    CONSTRAINT [PK_fee] PRIMARY KEY CLUSTERED ([id]),
    PERIOD FOR SYSTEM_TIME ([since], [till])
) WITH (SYSTEM_VERSIONING = ON (HISTORY_TABLE = [quay].[fee_was], HISTORY_RETENTION_PERIOD = 6 MONTH))
GO

CREATE TABLE [quay].[hot] (
    [id] int NOT NULL,
    [berth] int NOT NULL,
    CONSTRAINT [PK_hot] PRIMARY KEY NONCLUSTERED ([id]),
    INDEX [hot_berth] NONCLUSTERED HASH ([berth]) WITH (BUCKET_COUNT = 4096)
) WITH (MEMORY_OPTIMIZED = ON, DURABILITY = SCHEMA_AND_DATA)
GO

CREATE TABLE [quay].[note] (
    [flag] int SPARSE NULL,
    [all of it] xml COLUMN_SET FOR ALL_SPARSE_COLUMNS,
    [paper] xml(DOCUMENT [quay].[papers]) NULL
)
GO

CREATE TABLE [quay].[place] (
    [id] int NOT NULL,
    [spot] geometry NULL,
    [picture] varbinary(max) NULL,
    [form] varchar(8) COLLATE Latin1_General_CI_AS NULL,
    CONSTRAINT [PK_place] PRIMARY KEY CLUSTERED ([id])
)
GO

CREATE FULLTEXT INDEX ON [quay].[place] ([picture] TYPE COLUMN [form] LANGUAGE 0) KEY INDEX [PK_place] ON [words] WITH (STOPLIST = OFF)
GO

-- left out: table:quay.secret: the column number is always encrypted, and its key is not part of the catalogue

-- left out: table:quay.signed_for: it is a ledger table, which is not written yet: an ordinary table would be something else

CREATE TABLE [quay].[tide] (
    [at] datetime NOT NULL
) ON [by_tide] ([at]) WITH (DATA_COMPRESSION = PAGE ON PARTITIONS (1 TO 2))
GO

CREATE SELECTIVE XML INDEX [note_papers] ON [quay].[note] ([paper]) WITH XMLNAMESPACES ('urn:harbour' AS h) FOR ([number] = '/h:paper/no' AS SQL varchar(20) SINGLETON, [at] = '/h:paper/at' AS XQUERY 'xs:string' MAXLENGTH(40) SINGLETON, [all of it] = '/h:paper' AS XQUERY 'node()')
GO

CREATE XML INDEX [note_paper_no] ON [quay].[note] ([paper]) USING XML INDEX [note_papers] FOR ([number])
GO

CREATE SPATIAL INDEX [place_spot] ON [quay].[place] ([spot]) USING GEOMETRY_AUTO_GRID WITH (BOUNDING_BOX = (0, 0, 500, 200.5))
GO

CREATE FUNCTION quay.may_see (@id int) RETURNS TABLE WITH SCHEMABINDING AS RETURN (SELECT 1 AS ok WHERE @id > 0)
GO

CREATE FUNCTION quay.usual_fee () RETURNS decimal(6,2) AS BEGIN RETURN 12.5 END
GO

CREATE PROCEDURE quay.haul @ropes quay.ropes READONLY, @code AS quay.code = 'A' AS EXEC list_crew; SELECT * FROM gone
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'of the mooring', @level0type = N'SCHEMA', @level0name = N'quay', @level1type = N'PROCEDURE', @level1name = N'haul', @level2type = N'PARAMETER', @level2name = N'@code'
GO
CREATE PROCEDURE quay.haul;2 AS SELECT 2
GO
CREATE PROCEDURE quay.haul;3 AS SELECT 3
GO

-- left out: procedure:quay.sealed(): the text of procedure:quay.sealed() is not known: it is encrypted, or the survey's user lacks VIEW DEFINITION

CREATE RULE quay.[some rope] AS @n > 0
GO

CREATE TYPE [pier].[code] FROM nvarchar(10) NULL
GO
EXEC sys.sp_bindrule @rulename = N'[quay].[some rope]', @objname = N'[pier].[code]'
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'of the pier', @level0type = N'SCHEMA', @level0name = N'pier', @level1type = N'TYPE', @level1name = N'code'
GO

CREATE TABLE [pier].[crew] (
    [id] int NOT NULL
)
GO

EXEC sys.sp_bindrule @rulename = N'[quay].[some rope]', @objname = N'[pier].[crew].[id]'
GO
EXEC sys.sp_bindefault @defname = N'[quay].[no fee]', @objname = N'[pier].[crew].[id]'
GO

IF NOT EXISTS (SELECT 1 FROM sys.change_tracking_databases WHERE database_id = DB_ID())
    ALTER DATABASE CURRENT SET CHANGE_TRACKING = ON
GO

ALTER TABLE [pier].[crew] ENABLE CHANGE_TRACKING
GO

CREATE TABLE [quay].[mooring] (
    [id] int NOT NULL,
    [code] [quay].[code] NOT NULL,
    [note] nvarchar(max) COLLATE Latin1_General_CI_AS NULL,
    [other code] [pier].[code] NULL,
    [fee] decimal(6,2) NULL CONSTRAINT [DF_mooring_fee] DEFAULT ([quay].[usual_fee]()),
    CONSTRAINT [PK_mooring] PRIMARY KEY CLUSTERED ([id]) WITH (DATA_COMPRESSION = PAGE) ON [COLD]
) TEXTIMAGE_ON [COLD]
GO

ALTER TABLE [quay].[mooring] WITH NOCHECK ADD CONSTRAINT [CK__mooring__fee__1A2B3C4D] CHECK ([fee]>(0))
GO
ALTER TABLE [quay].[mooring] NOCHECK CONSTRAINT [CK__mooring__fee__1A2B3C4D]
GO

IF NOT EXISTS (SELECT 1 FROM sys.change_tracking_databases WHERE database_id = DB_ID())
    ALTER DATABASE CURRENT SET CHANGE_TRACKING = ON
GO

ALTER TABLE [quay].[mooring] ENABLE CHANGE_TRACKING WITH (TRACK_COLUMNS_UPDATED = ON)
GO
EXEC sys.sp_addextendedproperty @name = N'unit', @value = N'crowns', @level0type = N'SCHEMA', @level0name = N'quay', @level1type = N'TABLE', @level1name = N'mooring', @level2type = N'COLUMN', @level2name = N'fee'
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'one number a mooring', @level0type = N'SCHEMA', @level0name = N'quay', @level1type = N'TABLE', @level1name = N'mooring', @level2type = N'CONSTRAINT', @level2name = N'PK_mooring'
GO
GRANT SELECT ON [quay].[mooring] TO [hands]
GO
REVOKE SELECT ON [quay].[mooring] ([note]) FROM [hands]
GO

CREATE UNIQUE INDEX [mooring_code] ON [quay].[mooring] ([code]) WITH (DATA_COMPRESSION = ROW, ALLOW_PAGE_LOCKS = OFF, STATISTICS_NORECOMPUTE = ON)
GO

CREATE FULLTEXT INDEX ON [quay].[mooring] ([note] LANGUAGE 1033) KEY INDEX [mooring_code] ON [words] WITH (CHANGE_TRACKING = MANUAL, STOPLIST = [small words])
GO

CREATE TABLE [quay].[rope] (
    [id] int NOT NULL,
    [mooring] int NULL,
    CONSTRAINT [CK_rope] CHECK NOT FOR REPLICATION ([id]>(0)),
    CONSTRAINT [FK_rope_mooring] FOREIGN KEY ([mooring]) REFERENCES [quay].[mooring] ([code]) NOT FOR REPLICATION
) WITH (DATA_COMPRESSION = ROW)
GO

EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'counted from one', @level0type = N'SCHEMA', @level0name = N'quay', @level1type = N'TABLE', @level1name = N'rope', @level2type = N'CONSTRAINT', @level2name = N'CK_rope'
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'made fast to', @level0type = N'SCHEMA', @level0name = N'quay', @level1type = N'TABLE', @level1name = N'rope', @level2type = N'CONSTRAINT', @level2name = N'FK_rope_mooring'
GO
ALTER AUTHORIZATION ON OBJECT::[quay].[rope] TO [mate]
GO

CREATE INDEX [mooring_note] ON [quay].[mooring] ([other code]) WITH (ALLOW_ROW_LOCKS = OFF, OPTIMIZE_FOR_SEQUENTIAL_KEY = ON) ON [PRIMARY]
GO

CREATE STATISTICS [mooring_pair] ON [quay].[mooring] ([fee], [code]) WHERE ([fee]>(3)) WITH NORECOMPUTE
GO

CREATE PROCEDURE pier.list_crew AS SELECT id FROM crew
GO

CREATE VIEW quay.tally WITH SCHEMABINDING AS SELECT id, mooring FROM quay.rope
GO

CREATE UNIQUE CLUSTERED INDEX [tally_ix] ON [quay].[tally] ([id])
GO

CREATE INDEX [a_tally_mooring] ON [quay].[tally] ([mooring])
GO

EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'the first', @level0type = N'SCHEMA', @level0name = N'quay', @level1type = N'VIEW', @level1name = N'tally', @level2type = N'INDEX', @level2name = N'tally_ix'
GO

CREATE SYNONYM [quay].[lines] FOR [quay].[rope]
GO

CREATE TRIGGER quay.rope_1 ON quay.rope AFTER INSERT, UPDATE NOT FOR REPLICATION AS RETURN
GO
EXEC sys.sp_settriggerorder @triggername = N'[quay].[rope_1]', @order = N'First', @stmttype = N'INSERT'
GO

CREATE TRIGGER quay.rope_2 ON quay.rope AFTER INSERT AS RETURN
GO
DISABLE TRIGGER [quay].[rope_2] ON [quay].[rope]
GO
EXEC sys.sp_settriggerorder @triggername = N'[quay].[rope_2]', @order = N'Last', @stmttype = N'INSERT'
GO

CREATE SECURITY POLICY [quay].[own_moorings] ADD FILTER PREDICATE [quay].[may_see]([id]) ON [quay].[mooring], ADD BLOCK PREDICATE [quay].[may_see]([id]) ON [quay].[mooring] AFTER INSERT WITH (STATE = ON, SCHEMABINDING = ON)
GO

ALTER TABLE [quay].[rope] WITH NOCHECK ADD CONSTRAINT [FK__rope__id__99887766] FOREIGN KEY ([id]) REFERENCES [quay].[mooring] ([id])
GO

ALTER TABLE [quay].[rope] NOCHECK CONSTRAINT [FK__rope__id__99887766]
GO

ALTER DATABASE CURRENT MODIFY FILEGROUP [COLD] READ_ONLY
GO

CREATE TRIGGER watch ON DATABASE FOR CREATE_TABLE AS PRINT 'a table'
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'keeps watch', @level0type = N'TRIGGER', @level0name = N'watch'
GO
DISABLE TRIGGER [watch] ON DATABASE
GO
