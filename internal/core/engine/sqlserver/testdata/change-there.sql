IF NOT ((SELECT COUNT(*) FROM sys.columns WHERE object_id = OBJECT_ID(N'[dbo].[heap_note]')) = 1 AND (SELECT COUNT(*) FROM sys.columns WHERE object_id = OBJECT_ID(N'[dbo].[heap_note]') AND name IN (N'note')) = 1)
BEGIN
    RAISERROR (N'table:dbo.heap_note is not as it was read: nothing was changed', 16, 1);
    SET NOEXEC ON;
END
GO

IF NOT (OBJECT_ID(N'[dbo].[mainland]') IS NOT NULL)
BEGIN
    RAISERROR (N'synonym:dbo.mainland is not as it was read: nothing was changed', 16, 1);
    SET NOEXEC ON;
END
GO

IF NOT (OBJECT_ID(N'[nav].[ticket]') IS NOT NULL)
BEGIN
    RAISERROR (N'sequence:nav.ticket is not as it was read: nothing was changed', 16, 1);
    SET NOEXEC ON;
END
GO

IF NOT ((SELECT COUNT(*) FROM sys.columns WHERE object_id = OBJECT_ID(N'[nav].[beacon]')) = 10 AND (SELECT COUNT(*) FROM sys.columns WHERE object_id = OBJECT_ID(N'[nav].[beacon]') AND name IN (N'id', N'name', N'height_m', N'bearing', N'row_id', N'height_ft', N'label', N'remark', N'place', N'papers')) = 10)
BEGIN
    RAISERROR (N'table:nav.beacon is not as it was read: nothing was changed', 16, 1);
    SET NOEXEC ON;
END
GO

IF NOT ((SELECT COUNT(*) FROM sys.columns WHERE object_id = OBJECT_ID(N'[nav].[lamp]')) = 6 AND (SELECT COUNT(*) FROM sys.columns WHERE object_id = OBJECT_ID(N'[nav].[lamp]') AND name IN (N'beacon_id', N'lamp no', N'code', N'lit_from', N'watts', N'stamp')) = 6)
BEGIN
    RAISERROR (N'table:nav.lamp is not as it was read: nothing was changed', 16, 1);
    SET NOEXEC ON;
END
GO

IF NOT (EXISTS (SELECT 1 FROM sys.indexes WHERE object_id = OBJECT_ID(N'[nav].[beacon]') AND name = N'beacon_by_height'))
BEGIN
    RAISERROR (N'index:nav.beacon.beacon_by_height is not as it was read: nothing was changed', 16, 1);
    SET NOEXEC ON;
END
GO

IF NOT (HASHBYTES('SHA2_256', OBJECT_DEFINITION(OBJECT_ID(N'[nav].[tall_beacon]'))) = 0x19286563426712D9B45E01108E26B60F3FF5F708888C057956DA02962021FB4B)
BEGIN
    RAISERROR (N'view:nav.tall_beacon is not as it was read: nothing was changed', 16, 1);
    SET NOEXEC ON;
END
GO

IF NOT (HASHBYTES('SHA2_256', OBJECT_DEFINITION(OBJECT_ID(N'[nav].[beacon_touch]'))) = 0x074F3EE83091DED13315DF74FBC06B275D26CC7C0D3976342366530ABAFE89E6)
BEGIN
    RAISERROR (N'trigger:nav.beacon.beacon_touch is not as it was read: nothing was changed', 16, 1);
    SET NOEXEC ON;
END
GO

IF NOT (NOT OBJECT_ID(N'[nav].[fog_horn]') IS NOT NULL)
BEGIN
    RAISERROR (N'table:nav.fog_horn is there already: nothing was changed', 16, 1);
    SET NOEXEC ON;
END
GO

DROP SYNONYM [dbo].[mainland]
GO

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

ALTER TABLE [nav].[beacon] DROP CONSTRAINT [beacon_height]
GO
ALTER TABLE [nav].[beacon] DROP CONSTRAINT [CK_height]
GO

DROP INDEX [beacon_by_height] ON [nav].[beacon]
GO

-- loses data: all rows of table:dbo.heap_note
DROP TABLE [dbo].[heap_note]
GO

ALTER SEQUENCE [nav].[ticket] INCREMENT BY 5 MINVALUE 1 MAXVALUE 100000 CYCLE CACHE 50
GO

ALTER TABLE [nav].[beacon] DROP COLUMN [height_ft]
GO
-- may fail on rows that are there: values of height_m that are no decimal(7,2)
--   look first: SELECT * FROM [nav].[beacon] WHERE [height_m] IS NOT NULL AND TRY_CONVERT(decimal(7,2), [height_m]) IS NULL
-- rewrites the table: each row; nobody uses the table meanwhile (Sch-M)
ALTER TABLE [nav].[beacon] ALTER COLUMN [height_m] decimal(7,2) NULL
GO
ALTER TABLE [nav].[beacon] ADD CONSTRAINT [beacon_height] DEFAULT ((10)) FOR [height_m]
GO
-- rewrites the table: each row gets a value for height_ft; nobody uses the table meanwhile (Sch-M)
ALTER TABLE [nav].[beacon] ADD [height_ft] AS ([height_m]*(3.28084)) PERSISTED
GO
EXEC sys.sp_dropextendedproperty @name = N'MS_Description', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon'
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'every light and mark', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon'
GO

CREATE TABLE [nav].[fog_horn] (
    [id] int NOT NULL,
    [beacon_id] int NOT NULL
)
GO

-- may fail on rows that are there: rows that have no value for watts
--   look first: SELECT * FROM [nav].[lamp] WHERE [watts] IS NULL
ALTER TABLE [nav].[lamp] ALTER COLUMN [watts] float NOT NULL
GO
-- may fail on rows that are there: rows that refer to nothing
--   look first: SELECT a.* FROM [nav].[lamp] a WHERE a.[beacon_id] IS NOT NULL AND NOT EXISTS (SELECT 1 FROM [nav].[beacon] b WHERE b.[id] = a.[beacon_id])
-- holds up others: everybody on both tables (Sch-M) while all rows are looked at
ALTER TABLE [nav].[lamp] WITH CHECK ADD CONSTRAINT [FK_lamp_beacon] FOREIGN KEY ([beacon_id]) REFERENCES [nav].[beacon] ([id])
GO
ALTER TABLE [nav].[lamp] WITH NOCHECK ADD CONSTRAINT [CK_watts] CHECK ([watts]>=(0) OR [lit_from] IS NULL)
GO
ALTER TABLE [nav].[lamp] NOCHECK CONSTRAINT [CK_watts]
GO
GRANT SELECT ON [nav].[lamp] TO [lamp_crew]
GO

-- holds up others: writers of the table while the index is built (ONLINE = ON spares them where the edition has it)
CREATE INDEX [beacon_by_height] ON [nav].[beacon] ([height_m] DESC, [bearing]) INCLUDE ([name], [remark]) WHERE ([height_m] IS NOT NULL) WITH (FILLFACTOR = 70, PAD_INDEX = ON) ON [ARCHIVE]
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'for the tall ones', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon', @level2type = N'INDEX', @level2name = N'beacon_by_height'
GO

CREATE OR ALTER VIEW [nav].[tall_beacon]
AS
SELECT id, name FROM nav.beacon WHERE height_m > 25
WITH CHECK OPTION
GO

DISABLE TRIGGER [nav].[beacon_touch] ON [nav].[beacon]
GO

