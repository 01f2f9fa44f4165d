SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
CREATE ROLE [lamp_crew]
GO

CREATE USER [keeper] WITH DEFAULT_SCHEMA = [nav]
GO
ALTER ROLE [lamp_crew] ADD MEMBER [keeper]
GO
ALTER ROLE [db_datareader] ADD MEMBER [keeper]
GO

CREATE SCHEMA [Night Watch] AUTHORIZATION [keeper]
GO
GRANT SELECT ON SCHEMA::[Night Watch] TO [lamp_crew]
GO

CREATE SCHEMA [nav]
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'what helps to find the way', @level0type = N'SCHEMA', @level0name = N'nav'
GO

CREATE TYPE [nav].[bearing] FROM decimal(5,2) NOT NULL
GO

CREATE TYPE [nav].[beacon_list] AS TABLE (
    [beacon_id] int NOT NULL,
    [note] nvarchar(50) NULL,
    PRIMARY KEY CLUSTERED ([beacon_id])
)
GO

ALTER DATABASE CURRENT ADD FILEGROUP [ARCHIVE]
GO

DECLARE @file nvarchar(max) = N'''' + REPLACE(CAST(SERVERPROPERTY('InstanceDefaultDataPath') AS nvarchar(260)) + DB_NAME() + N'_archive.ndf', N'''', N'''''') + N'''';
SET @file = N'ALTER DATABASE CURRENT ADD FILE (NAME = [archive], FILENAME = ' + @file + N') TO FILEGROUP [ARCHIVE]';
EXEC (@file)
GO

CREATE PARTITION FUNCTION [years] (date) AS RANGE RIGHT FOR VALUES ('2025-01-01', '2026-01-01')
GO

CREATE PARTITION SCHEME [by_year] AS PARTITION [years] TO ([ARCHIVE], [PRIMARY], [PRIMARY])
GO

CREATE FULLTEXT CATALOG [words] AS DEFAULT
GO

CREATE SEQUENCE [dbo].[plain_numbers] AS bigint START WITH -9223372036854775808 INCREMENT BY 1 MINVALUE -9223372036854775808 MAXVALUE 9223372036854775807
GO

CREATE SEQUENCE [nav].[ticket] AS int START WITH 100 INCREMENT BY 5 MINVALUE 1 MAXVALUE 100000 CYCLE CACHE 20
GO

CREATE TABLE [dbo].[heap_note] (
    [note] nvarchar(max) COLLATE Latin1_General_CI_AS NULL
)
GO

CREATE TABLE [dbo].[signal_code] (
    [code] char(2) COLLATE Latin1_General_BIN2 NOT NULL,
    [meaning] nchar(20) COLLATE Latin1_General_CI_AS NULL,
    CONSTRAINT [PK_code] PRIMARY KEY CLUSTERED ([code])
)
GO

CREATE TABLE [nav].[beacon] (
    [id] int IDENTITY(1,1) NOT NULL,
    [name] nvarchar(80) COLLATE Latin1_General_CI_AS NOT NULL,
    [height_m] decimal(6,2) NULL CONSTRAINT [beacon_height] DEFAULT ((12.5)),
    [bearing] [nav].[bearing] NOT NULL,
    [row_id] uniqueidentifier NOT NULL ROWGUIDCOL DEFAULT (newid()),
    [height_ft] AS ([height_m]*(3.28084)) PERSISTED,
    [label] AS ([name]+N' light'),
    [remark] nvarchar(max) COLLATE Latin1_General_CI_AS SPARSE NULL,
    [place] geography NULL,
    [papers] xml NULL,
    CONSTRAINT [PK_beacon] PRIMARY KEY CLUSTERED ([id]),
    CONSTRAINT [UQ_beacon_name] UNIQUE NONCLUSTERED ([name]) WITH (FILLFACTOR = 90),
    CONSTRAINT [CK_height] CHECK ([height_m]>(0) AND [height_m]<(400))
)
GO

CREATE TABLE [Night Watch].[keeper log] (
    [entry] bigint IDENTITY(1000,5) NOT NULL,
    [beacon_id] int NULL,
    [wrote at] datetimeoffset(7) NOT NULL CONSTRAINT [log_now] DEFAULT (sysdatetimeoffset()),
    [text]]of] varchar(max) COLLATE Latin1_General_CI_AS MASKED WITH (FUNCTION = 'default()') NULL,
    CONSTRAINT [PK_log] PRIMARY KEY CLUSTERED ([entry])
)
GO

CREATE FULLTEXT INDEX ON [nav].[beacon] ([name] LANGUAGE 1033, [remark] LANGUAGE 1033) KEY INDEX [PK_beacon] ON [words]
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'every light of the line', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon'
GO
EXEC sys.sp_addextendedproperty @name = N'reviewed', @value = N'yes', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon'
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'above high water; it''s in metres', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon', @level2type = N'COLUMN', @level2name = N'height_m'
GO
DENY SELECT ON [nav].[beacon] ([remark]) TO [keeper]
GO
GRANT SELECT ON [nav].[beacon] TO [lamp_crew]
GO
GRANT UPDATE ON [nav].[beacon] TO [lamp_crew] WITH GRANT OPTION
GO

CREATE TABLE [nav].[hot_signal] (
    [id] int NOT NULL,
    [lamp] int NULL,
    CONSTRAINT [PK_hot] PRIMARY KEY NONCLUSTERED HASH ([id]) WITH (BUCKET_COUNT = 1024)
) WITH (MEMORY_OPTIMIZED = ON, DURABILITY = SCHEMA_ONLY)
GO

CREATE TABLE [nav].[inspection] (
    [id] int NOT NULL,
    [beacon_id] int NOT NULL,
    [follows] int NULL,
    [done_on] date NULL,
    [mark] binary(8) NULL,
    CONSTRAINT [PK_inspection] PRIMARY KEY NONCLUSTERED ([id]),
    CONSTRAINT [FK_inspection_beacon] FOREIGN KEY ([beacon_id]) REFERENCES [nav].[beacon] ([id]),
    CONSTRAINT [FK_inspection_follows] FOREIGN KEY ([follows]) REFERENCES [nav].[inspection] ([id])
)
GO

CREATE TABLE [nav].[lamp] (
    [beacon_id] int NOT NULL,
    [lamp no] tinyint NOT NULL,
    [code] char(2) COLLATE Latin1_General_BIN2 NULL,
    [lit_from] time(0) NULL,
    [watts] float NULL,
    [stamp] timestamp NOT NULL,
    CONSTRAINT [PK_lamp] PRIMARY KEY CLUSTERED ([beacon_id], [lamp no] DESC),
    CONSTRAINT [FK_lamp_beacon] FOREIGN KEY ([beacon_id]) REFERENCES [nav].[beacon] ([id]) ON DELETE CASCADE
)
GO

ALTER TABLE [nav].[lamp] WITH NOCHECK ADD CONSTRAINT [CK_watts] CHECK ([watts]>=(0) OR [lit_from] IS NULL)
GO
ALTER TABLE [nav].[lamp] NOCHECK CONSTRAINT [CK_watts]
GO

CREATE TABLE [nav].[reading] (
    [beacon_id] int NOT NULL,
    [taken_on] date NOT NULL,
    [lux] real NULL
) ON [by_year] ([taken_on])
GO

CREATE TABLE [nav].[tariff_history] (
    [id] int NOT NULL,
    [price] money NOT NULL,
    [valid_from] datetime2(7) NOT NULL,
    [valid_to] datetime2(7) NOT NULL
)
GO

CREATE TABLE [nav].[tariff] (
    [id] int NOT NULL,
    [price] money NOT NULL,
    [valid_from] datetime2(7) GENERATED ALWAYS AS ROW START HIDDEN NOT NULL,
    [valid_to] datetime2(7) GENERATED ALWAYS AS ROW END HIDDEN NOT NULL,
    CONSTRAINT [PK_tariff] PRIMARY KEY CLUSTERED ([id]),
    PERIOD FOR SYSTEM_TIME ([valid_from], [valid_to])
) WITH (SYSTEM_VERSIONING = ON (HISTORY_TABLE = [nav].[tariff_history]))
GO

CREATE NONCLUSTERED COLUMNSTORE INDEX [log_ncc] ON [Night Watch].[keeper log] ([beacon_id], [wrote at])
GO

CREATE INDEX [beacon_by_height] ON [nav].[beacon] ([height_m] DESC, [bearing]) INCLUDE ([name], [remark]) WHERE ([height_m] IS NOT NULL) WITH (FILLFACTOR = 80, PAD_INDEX = ON) ON [ARCHIVE]
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'for the tall ones', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon', @level2type = N'INDEX', @level2name = N'beacon_by_height'
GO

CREATE PRIMARY XML INDEX [beacon_papers] ON [nav].[beacon] ([papers])
GO

CREATE XML INDEX [beacon_papers_path] ON [nav].[beacon] ([papers]) USING XML INDEX [beacon_papers] FOR PATH
GO

CREATE SPATIAL INDEX [beacon_place] ON [nav].[beacon] ([place]) USING GEOGRAPHY_AUTO_GRID
GO

CREATE UNIQUE INDEX [lamp_code] ON [nav].[lamp] ([code]) WITH (IGNORE_DUP_KEY = ON)
GO
ALTER INDEX [lamp_code] ON [nav].[lamp] DISABLE
GO

CREATE CLUSTERED COLUMNSTORE INDEX [reading_cc] ON [nav].[reading] ON [by_year] ([taken_on])
GO

SET ANSI_NULLS OFF
GO
CREATE FUNCTION [Night Watch].log_of (@beacon int) RETURNS @t TABLE (entry bigint) AS BEGIN INSERT @t SELECT entry FROM [Night Watch].[keeper log] WHERE beacon_id = @beacon; RETURN END
GO

SET ANSI_NULLS ON
GO
CREATE FUNCTION nav.lamps_of (@beacon int) RETURNS TABLE AS RETURN (SELECT [lamp no], watts FROM nav.lamp WHERE beacon_id = @beacon)
GO

CREATE FUNCTION nav.to_feet (@m decimal(6,2)) RETURNS decimal(12,5) AS BEGIN RETURN @m * 3.28084 END
GO

CREATE PROCEDURE nav.count_rows @table sysname
AS
BEGIN
  DECLARE @sql nvarchar(400) = N'SELECT COUNT(*) FROM nav.' + QUOTENAME(@table);
  EXEC sp_executesql @sql;
END
GO

SET QUOTED_IDENTIFIER OFF
GO
CREATE PROCEDURE nav.light_lamp @beacon int, @lit bit OUTPUT
AS
BEGIN
  SET NOCOUNT ON;
  UPDATE nav.lamp SET lit_from = SYSDATETIME() WHERE beacon_id = @beacon;
  SET @lit = 1;
END
GO

SET QUOTED_IDENTIFIER ON
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'lights a lamp', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'PROCEDURE', @level1name = N'light_lamp'
GO
GRANT EXECUTE ON [nav].[light_lamp] TO [keeper]
GO

CREATE VIEW nav.lit_count WITH SCHEMABINDING AS
SELECT beacon_id, COUNT_BIG(*) AS lamps FROM nav.lamp GROUP BY beacon_id
GO

CREATE UNIQUE CLUSTERED INDEX [lit_count_ix] ON [nav].[lit_count] ([beacon_id])
GO

CREATE VIEW [nav].[tall_beacon]
AS
SELECT id, name FROM nav.beacon WHERE height_m > 30
WITH CHECK OPTION
GO

CREATE SYNONYM [dbo].[lights] FOR [nav].[beacon]
GO

CREATE SYNONYM [dbo].[mainland] FOR [archive].[dbo].[old]
GO

CREATE TRIGGER nav.beacon_touch ON nav.beacon AFTER INSERT, UPDATE AS UPDATE nav.lamp SET watts = watts WHERE beacon_id IN (SELECT id FROM inserted)
GO

CREATE TRIGGER nav.tall_insert ON nav.tall_beacon INSTEAD OF INSERT AS RETURN
GO
DISABLE TRIGGER [nav].[tall_insert] ON [nav].[tall_beacon]
GO

ALTER TABLE [Night Watch].[keeper log] WITH NOCHECK ADD CONSTRAINT [FK_log_beacon] FOREIGN KEY ([beacon_id]) REFERENCES [nav].[beacon] ([id])
GO

ALTER TABLE [Night Watch].[keeper log] NOCHECK CONSTRAINT [FK_log_beacon]
GO

ALTER TABLE [nav].[lamp] WITH NOCHECK ADD CONSTRAINT [FK_lamp_code] FOREIGN KEY ([code]) REFERENCES [dbo].[signal_code] ([code]) ON DELETE SET NULL ON UPDATE CASCADE
GO

CREATE TRIGGER no_drops ON DATABASE FOR DROP_TABLE AS ROLLBACK
GO
