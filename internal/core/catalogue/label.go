package catalogue

// Labels name snapshots of a database; a label is of one at a time.

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"
	"unicode"
)

// LabelError says why a text cannot be a label.
type LabelError struct{ Label, Reason string }

func (e *LabelError) Error() string {
	return fmt.Sprintf("%q cannot be a label: %s", e.Label, e.Reason)
}

// CheckLabel reports a text that could not stand behind the @ of an address, or that an address would read otherwise:
// as a number of readings back, or as a moment. "" is no label, and fine.
func CheckLabel(label string) error {
	if label == "" {
		return nil
	}
	_, number := strconv.Atoi(label)
	_, moment := ParseMoment(label, time.Unix(0, 0))
	switch {
	case strings.ContainsAny(label, "/@"):
		return &LabelError{label, "it holds / or @, and stands behind @ in an address"}
	case strings.ContainsFunc(label, unicode.IsControl):
		return &LabelError{label, "it holds a control character"}
	case strings.TrimSpace(label) != label:
		return &LabelError{label, "it begins or ends with a blank"}
	case number == nil:
		return &LabelError{label, "a number behind @ counts readings back"}
	case moment == nil:
		return &LabelError{label, "behind @ it means a moment"}
	}
	return nil
}

// SetLabel gives a snapshot a label; "" takes it away. One label stands on one reading of a database: taken is the
// one that it was taken from, nil if there is none such.
func (c *Catalogue) SetLabel(ctx context.Context, s *Snapshot, label string) (taken *Snapshot, err error) {
	if err := CheckLabel(label); err != nil {
		return nil, err
	}
	tx, err := c.db.BeginTx(ctx, nil)
	if err != nil {
		return nil, c.explain("writing to", err)
	}
	defer tx.Rollback()
	if label != "" {
		if taken, err = c.labelled(ctx, s, label); err != nil {
			return nil, err
		}
		if _, err := tx.ExecContext(ctx, "UPDATE snapshot SET label = '', labelsum = 0 WHERE server = ? AND database = ? AND path = '' AND label = ? AND id <> ?", s.Server, s.Database, label, s.ID); err != nil {
			return nil, c.explain("writing to", err)
		}
	}
	if _, err := tx.ExecContext(ctx, "UPDATE snapshot SET label = ?, labelsum = ? WHERE id = ?", label, labelSum(s.ID, label, s.Path), s.ID); err != nil {
		return nil, c.explain("writing to", err)
	}
	return taken, c.explain("writing to", tx.Commit())
}

// labelled returns another snapshot of the same database that bears a label, nil if none does.
func (c *Catalogue) labelled(ctx context.Context, s *Snapshot, label string) (*Snapshot, error) {
	all, err := c.query(ctx, "WHERE server = ? AND database = ? AND path = '' AND label = ? AND id <> ? ORDER BY id DESC LIMIT 1", s.Server, s.Database, label, s.ID)
	if err != nil || len(all) == 0 {
		return nil, err
	}
	return all[0], nil
}
