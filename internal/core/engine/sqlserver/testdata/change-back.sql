SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[lamp] DROP CONSTRAINT [CK_watts]
GO
ALTER TABLE [nav].[lamp] DROP CONSTRAINT [FK_lamp_beacon]
GO

-- loses data: all rows of table:nav.fog_horn
DROP TABLE [nav].[fog_horn]
GO

ALTER TABLE [nav].[beacon] DROP CONSTRAINT [beacon_height]
GO

DROP INDEX [beacon_by_height] ON [nav].[beacon]
GO

ALTER SEQUENCE [nav].[ticket] INCREMENT BY 5 MINVALUE 1 MAXVALUE 100000 CYCLE CACHE 20
GO

CREATE TABLE [dbo].[heap_note] (
    [note] nvarchar(max) COLLATE Latin1_General_CI_AS NULL
)
GO

ALTER TABLE [nav].[beacon] DROP COLUMN [height_ft]
GO
-- may fail on rows that are there: values of height_m that are no decimal(6,2)
--   look first: SELECT * FROM [nav].[beacon] WHERE [height_m] IS NOT NULL AND TRY_CONVERT(decimal(6,2), [height_m]) IS NULL
-- rewrites the table: each row; nobody uses the table meanwhile (Sch-M)
ALTER TABLE [nav].[beacon] ALTER COLUMN [height_m] decimal(6,2) NULL
GO
ALTER TABLE [nav].[beacon] ADD CONSTRAINT [beacon_height] DEFAULT ((12.5)) FOR [height_m]
GO
-- rewrites the table: each row gets a value for height_ft; nobody uses the table meanwhile (Sch-M)
ALTER TABLE [nav].[beacon] ADD [height_ft] AS ([height_m]*(3.28084)) PERSISTED
GO
-- may fail on rows that are there: rows that do not fulfil it
--   look first: SELECT * FROM [nav].[beacon] WHERE NOT (([height_m]>(0) AND [height_m]<(400)))
ALTER TABLE [nav].[beacon] WITH CHECK ADD CONSTRAINT [CK_height] CHECK ([height_m]>(0) AND [height_m]<(400))
GO
EXEC sys.sp_dropextendedproperty @name = N'MS_Description', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon'
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'every light of the line', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon'
GO

ALTER TABLE [nav].[lamp] ALTER COLUMN [watts] float NULL
GO
-- may fail on rows that are there: rows that refer to nothing
--   look first: SELECT a.* FROM [nav].[lamp] a WHERE a.[beacon_id] IS NOT NULL AND NOT EXISTS (SELECT 1 FROM [nav].[beacon] b WHERE b.[id] = a.[beacon_id])
-- holds up others: everybody on both tables (Sch-M) while all rows are looked at
ALTER TABLE [nav].[lamp] WITH CHECK ADD CONSTRAINT [FK_lamp_beacon] FOREIGN KEY ([beacon_id]) REFERENCES [nav].[beacon] ([id]) ON DELETE CASCADE
GO
ALTER TABLE [nav].[lamp] WITH NOCHECK ADD CONSTRAINT [CK_watts] CHECK ([watts]>=(0) OR [lit_from] IS NULL)
GO
ALTER TABLE [nav].[lamp] NOCHECK CONSTRAINT [CK_watts]
GO
REVOKE SELECT ON [nav].[lamp] FROM [lamp_crew]
GO

-- holds up others: writers of the table while the index is built (ONLINE = ON spares them where the edition has it)
CREATE INDEX [beacon_by_height] ON [nav].[beacon] ([height_m] DESC, [bearing]) INCLUDE ([name], [remark]) WHERE ([height_m] IS NOT NULL) WITH (FILLFACTOR = 80, PAD_INDEX = ON) ON [ARCHIVE]
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'for the tall ones', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon', @level2type = N'INDEX', @level2name = N'beacon_by_height'
GO

CREATE OR ALTER VIEW [nav].[tall_beacon]
AS
SELECT id, name FROM nav.beacon WHERE height_m > 30
WITH CHECK OPTION
GO

CREATE SYNONYM [dbo].[mainland] FOR [archive].[dbo].[old]
GO

ENABLE TRIGGER [nav].[beacon_touch] ON [nav].[beacon]
GO

