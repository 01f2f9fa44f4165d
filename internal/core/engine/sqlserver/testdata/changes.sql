-- ==== a column
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[lamp] ADD [colour] nvarchar(20) NOT NULL DEFAULT (N'white')
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
DECLARE @drop nvarchar(max) = N'ALTER TABLE [nav].[lamp] DROP CONSTRAINT ' + QUOTENAME((SELECT name FROM sys.default_constraints WHERE parent_object_id = OBJECT_ID(N'[nav].[lamp]') AND parent_column_id = COLUMNPROPERTY(OBJECT_ID(N'[nav].[lamp]'), N'colour', 'ColumnId')));
EXEC (@drop)
GO

-- loses data: the values of colour
--   look first: SELECT COUNT([colour]) FROM [nav].[lamp]
ALTER TABLE [nav].[lamp] DROP COLUMN [colour]
GO


-- ==== a column without a default
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
-- may fail on rows that are there: any row: colour has no value for it
--   look first: SELECT COUNT(*) FROM [nav].[lamp]
ALTER TABLE [nav].[lamp] ADD [colour] int NOT NULL
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
-- loses data: the values of colour
--   look first: SELECT COUNT([colour]) FROM [nav].[lamp]
ALTER TABLE [nav].[lamp] DROP COLUMN [colour]
GO


-- ==== a default whose name the server made up
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[lamp] ADD DEFAULT ('Z') FOR [code]
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
DECLARE @drop nvarchar(max) = N'ALTER TABLE [nav].[lamp] DROP CONSTRAINT ' + QUOTENAME((SELECT name FROM sys.default_constraints WHERE parent_object_id = OBJECT_ID(N'[nav].[lamp]') AND parent_column_id = COLUMNPROPERTY(OBJECT_ID(N'[nav].[lamp]'), N'code', 'ColumnId')));
EXEC (@drop)
GO


-- ==== a wider text
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] DROP COLUMN [label]
GO
ALTER TABLE [nav].[beacon] ALTER COLUMN [name] nvarchar(200) COLLATE Latin1_General_CI_AS NOT NULL
GO
ALTER TABLE [nav].[beacon] ADD [label] AS ([name]+N' light')
GO

-- ---- and back
DROP INDEX [beacon_by_height] ON [nav].[beacon]
GO

SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] DROP CONSTRAINT [UQ_beacon_name]
GO
ALTER TABLE [nav].[beacon] DROP COLUMN [label]
GO
-- may fail on rows that are there: values of name that are no nvarchar(80)
--   look first: SELECT * FROM [nav].[beacon] WHERE DATALENGTH([name]) > 160
-- rewrites the table: each row; nobody uses the table meanwhile (Sch-M)
ALTER TABLE [nav].[beacon] ALTER COLUMN [name] nvarchar(80) COLLATE Latin1_General_CI_AS NOT NULL
GO
ALTER TABLE [nav].[beacon] ADD [label] AS ([name]+N' light')
GO
-- may fail on rows that are there: rows that agree in [name]
--   look first: SELECT [name], COUNT(*) FROM [nav].[beacon] GROUP BY [name] HAVING COUNT(*) > 1
-- holds up others: everybody on the table (Sch-M) while the index is built
ALTER TABLE [nav].[beacon] ADD CONSTRAINT [UQ_beacon_name] UNIQUE NONCLUSTERED ([name]) WITH (FILLFACTOR = 90)
GO

-- holds up others: writers of the table while the index is built (ONLINE = ON spares them where the edition has it)
CREATE INDEX [beacon_by_height] ON [nav].[beacon] ([height_m] DESC, [bearing]) INCLUDE ([name], [remark]) WHERE ([height_m] IS NOT NULL) WITH (FILLFACTOR = 80, PAD_INDEX = ON) ON [ARCHIVE]
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'for the tall ones', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon', @level2type = N'INDEX', @level2name = N'beacon_by_height'
GO


-- ==== a narrower text
DROP INDEX [beacon_by_height] ON [nav].[beacon]
GO

SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] DROP CONSTRAINT [UQ_beacon_name]
GO
ALTER TABLE [nav].[beacon] DROP COLUMN [label]
GO
-- may fail on rows that are there: values of name that are no nvarchar(10)
--   look first: SELECT * FROM [nav].[beacon] WHERE DATALENGTH([name]) > 20
-- rewrites the table: each row; nobody uses the table meanwhile (Sch-M)
ALTER TABLE [nav].[beacon] ALTER COLUMN [name] nvarchar(10) COLLATE Latin1_General_CI_AS NOT NULL
GO
ALTER TABLE [nav].[beacon] ADD [label] AS ([name]+N' light')
GO
-- may fail on rows that are there: rows that agree in [name]
--   look first: SELECT [name], COUNT(*) FROM [nav].[beacon] GROUP BY [name] HAVING COUNT(*) > 1
-- holds up others: everybody on the table (Sch-M) while the index is built
ALTER TABLE [nav].[beacon] ADD CONSTRAINT [UQ_beacon_name] UNIQUE NONCLUSTERED ([name]) WITH (FILLFACTOR = 90)
GO

-- holds up others: writers of the table while the index is built (ONLINE = ON spares them where the edition has it)
CREATE INDEX [beacon_by_height] ON [nav].[beacon] ([height_m] DESC, [bearing]) INCLUDE ([name], [remark]) WHERE ([height_m] IS NOT NULL) WITH (FILLFACTOR = 80, PAD_INDEX = ON) ON [ARCHIVE]
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'for the tall ones', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon', @level2type = N'INDEX', @level2name = N'beacon_by_height'
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] DROP COLUMN [label]
GO
ALTER TABLE [nav].[beacon] ALTER COLUMN [name] nvarchar(80) COLLATE Latin1_General_CI_AS NOT NULL
GO
ALTER TABLE [nav].[beacon] ADD [label] AS ([name]+N' light')
GO


-- ==== an expression
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] DROP COLUMN [height_ft]
GO
-- rewrites the table: each row gets a value for height_ft; nobody uses the table meanwhile (Sch-M)
ALTER TABLE [nav].[beacon] ADD [height_ft] AS ([height_m]*(3.3)) PERSISTED
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] DROP COLUMN [height_ft]
GO
-- rewrites the table: each row gets a value for height_ft; nobody uses the table meanwhile (Sch-M)
ALTER TABLE [nav].[beacon] ADD [height_ft] AS ([height_m]*(3.28084)) PERSISTED
GO


-- ==== a computed column becomes an ordinary one
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] DROP COLUMN [height_ft]
GO
ALTER TABLE [nav].[beacon] ADD [height_ft] float NULL
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
-- loses data: the values of height_ft
--   look first: SELECT COUNT([height_ft]) FROM [nav].[beacon]
ALTER TABLE [nav].[beacon] DROP COLUMN [height_ft]
GO
-- rewrites the table: each row gets a value for height_ft; nobody uses the table meanwhile (Sch-M)
ALTER TABLE [nav].[beacon] ADD [height_ft] AS ([height_m]*(3.28084)) PERSISTED
GO


-- ==== an ordinary column becomes a computed one
DROP INDEX [beacon_by_height] ON [nav].[beacon]
GO

SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
-- loses data: the values of remark
--   look first: SELECT COUNT([remark]) FROM [nav].[beacon]
ALTER TABLE [nav].[beacon] DROP COLUMN [remark]
GO
ALTER TABLE [nav].[beacon] ADD [remark] AS ([name]+N'!')
GO

-- holds up others: writers of the table while the index is built (ONLINE = ON spares them where the edition has it)
CREATE INDEX [beacon_by_height] ON [nav].[beacon] ([height_m] DESC, [bearing]) INCLUDE ([name], [remark]) WHERE ([height_m] IS NOT NULL) WITH (FILLFACTOR = 80, PAD_INDEX = ON) ON [ARCHIVE]
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'for the tall ones', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon', @level2type = N'INDEX', @level2name = N'beacon_by_height'
GO

-- ---- and back
DROP INDEX [beacon_by_height] ON [nav].[beacon]
GO

SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] DROP COLUMN [remark]
GO
ALTER TABLE [nav].[beacon] ADD [remark] nvarchar(max) COLLATE Latin1_General_CI_AS SPARSE NULL
GO

-- holds up others: writers of the table while the index is built (ONLINE = ON spares them where the edition has it)
CREATE INDEX [beacon_by_height] ON [nav].[beacon] ([height_m] DESC, [bearing]) INCLUDE ([name], [remark]) WHERE ([height_m] IS NOT NULL) WITH (FILLFACTOR = 80, PAD_INDEX = ON) ON [ARCHIVE]
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'for the tall ones', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon', @level2type = N'INDEX', @level2name = N'beacon_by_height'
GO


-- ==== a key of other columns
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
-- rewrites the table: its rows lie in the order of this key, and all other indexes are built anew
ALTER TABLE [nav].[lamp] DROP CONSTRAINT [PK_lamp]
GO
-- may fail on rows that are there: rows that agree in [beacon_id]
--   look first: SELECT [beacon_id], COUNT(*) FROM [nav].[lamp] GROUP BY [beacon_id] HAVING COUNT(*) > 1
-- holds up others: everybody on the table (Sch-M) while the index is built
ALTER TABLE [nav].[lamp] ADD CONSTRAINT [PK_lamp] PRIMARY KEY CLUSTERED ([beacon_id])
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
-- rewrites the table: its rows lie in the order of this key, and all other indexes are built anew
ALTER TABLE [nav].[lamp] DROP CONSTRAINT [PK_lamp]
GO
-- may fail on rows that are there: rows that agree in [beacon_id], [lamp no]
--   look first: SELECT [beacon_id], [lamp no], COUNT(*) FROM [nav].[lamp] GROUP BY [beacon_id], [lamp no] HAVING COUNT(*) > 1
-- holds up others: everybody on the table (Sch-M) while the index is built
ALTER TABLE [nav].[lamp] ADD CONSTRAINT [PK_lamp] PRIMARY KEY CLUSTERED ([beacon_id], [lamp no] DESC)
GO


-- ==== an identity, which cannot be altered
-- by hand: table:nav.beacon: the identity of id cannot be altered: the table has to be made anew by hand
-- ---- and back
-- by hand: table:nav.beacon: the identity of id cannot be altered: the table has to be made anew by hand

-- ==== a foreign key that checks nothing
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[lamp] DROP CONSTRAINT [FK_lamp_beacon]
GO
ALTER TABLE [nav].[lamp] WITH NOCHECK ADD CONSTRAINT [FK_lamp_beacon] FOREIGN KEY ([beacon_id]) REFERENCES [nav].[beacon] ([id]) ON DELETE CASCADE
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[lamp] DROP CONSTRAINT [FK_lamp_beacon]
GO
-- may fail on rows that are there: rows that refer to nothing
--   look first: SELECT a.* FROM [nav].[lamp] a WHERE a.[beacon_id] IS NOT NULL AND NOT EXISTS (SELECT 1 FROM [nav].[beacon] b WHERE b.[id] = a.[beacon_id])
-- holds up others: everybody on both tables (Sch-M) while all rows are looked at
ALTER TABLE [nav].[lamp] WITH CHECK ADD CONSTRAINT [FK_lamp_beacon] FOREIGN KEY ([beacon_id]) REFERENCES [nav].[beacon] ([id]) ON DELETE CASCADE
GO


-- ==== no check
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] DROP CONSTRAINT [CK_height]
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
-- may fail on rows that are there: rows that do not fulfil it
--   look first: SELECT * FROM [nav].[beacon] WHERE NOT (([height_m]>(0) AND [height_m]<(400)))
ALTER TABLE [nav].[beacon] WITH CHECK ADD CONSTRAINT [CK_height] CHECK ([height_m]>(0) AND [height_m]<(400))
GO


-- ==== a description of a column
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
EXEC sys.sp_addextendedproperty @name = N'MS_Description', @value = N'what it''s called', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon', @level2type = N'COLUMN', @level2name = N'name'
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
EXEC sys.sp_dropextendedproperty @name = N'MS_Description', @level0type = N'SCHEMA', @level0name = N'nav', @level1type = N'TABLE', @level1name = N'beacon', @level2type = N'COLUMN', @level2name = N'name'
GO


-- ==== a mask
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] ALTER COLUMN [remark] ADD MASKED WITH (FUNCTION = 'default()')
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER TABLE [nav].[beacon] ALTER COLUMN [remark] DROP MASKED
GO


-- ==== an index of other columns
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
-- holds up others: writers of the table while the index is built (ONLINE = ON spares them where the edition has it)
CREATE INDEX [beacon_by_height] ON [nav].[beacon] ([height_m], [bearing]) INCLUDE ([name], [remark]) WHERE ([height_m] IS NOT NULL) WITH (DROP_EXISTING = ON, FILLFACTOR = 80, PAD_INDEX = ON) ON [ARCHIVE]
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
-- holds up others: writers of the table while the index is built (ONLINE = ON spares them where the edition has it)
CREATE INDEX [beacon_by_height] ON [nav].[beacon] ([height_m] DESC, [bearing]) INCLUDE ([name], [remark]) WHERE ([height_m] IS NOT NULL) WITH (DROP_EXISTING = ON, FILLFACTOR = 80, PAD_INDEX = ON) ON [ARCHIVE]
GO


-- ==== a sequence that starts elsewhere
-- loses data: the position of sequence:nav.ticket
DROP SEQUENCE [nav].[ticket]
GO
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
CREATE SEQUENCE [nav].[ticket] AS int START WITH 7 INCREMENT BY 5 MINVALUE 1 MAXVALUE 100000 CYCLE CACHE 20
GO

-- ---- and back
-- loses data: the position of sequence:nav.ticket
DROP SEQUENCE [nav].[ticket]
GO
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
CREATE SEQUENCE [nav].[ticket] AS int START WITH 100 INCREMENT BY 5 MINVALUE 1 MAXVALUE 100000 CYCLE CACHE 20
GO


-- ==== a sequence that does not begin again
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER SEQUENCE [nav].[ticket] INCREMENT BY 5 MINVALUE 1 MAXVALUE 100000 NO CYCLE CACHE 20
GO

-- ---- and back
SET ANSI_PADDING, ANSI_WARNINGS, ARITHABORT, CONCAT_NULL_YIELDS_NULL ON
SET NUMERIC_ROUNDABORT OFF
GO
SET ANSI_NULLS ON
GO
SET QUOTED_IDENTIFIER ON
GO
ALTER SEQUENCE [nav].[ticket] INCREMENT BY 5 MINVALUE 1 MAXVALUE 100000 CYCLE CACHE 20
GO


