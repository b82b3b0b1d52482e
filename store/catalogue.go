package store

import (
	"context"
	"errors"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"glenmist/core/catalogue"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

type catalogueRow struct {
	ID     int64 `gorm:"primaryKey"`
	Kind   string
	Number string
	Item   catalogue.Item `gorm:"type:jsonb;serializer:case"`
}

func (catalogueRow) TableName() string { return "catalogue" }

func rowOfItem(i catalogue.Item) catalogueRow {
	return catalogueRow{Kind: string(i.Kind), Number: i.Number, Item: i}
}

// ErrNoItem says that the catalogue has no such part.
var ErrNoItem = errors.New("no such part in the catalogue")

// Catalogue lists the workshop's parts by kind and number, at most [catalogue.MaxItems].
func (s *Store) Catalogue(ctx context.Context) ([]catalogue.Item, error) {
	var rows []catalogueRow
	err := s.db.WithContext(ctx).Order("kind, number").Limit(catalogue.MaxItems).Find(&rows).Error
	var all []catalogue.Item
	for _, r := range rows {
		all = append(all, r.Item)
	}
	return all, err
}

// SaveItem adds a part to the catalogue, or replaces the one of its kind and number.
func (s *Store) SaveItem(ctx context.Context, i catalogue.Item) error {
	return s.SaveItems(ctx, []catalogue.Item{i})
}

// SaveItems adds parts to the catalogue, all or none. A part of the same kind and number is replaced.
func (s *Store) SaveItems(ctx context.Context, items []catalogue.Item) error {
	rows := make([]catalogueRow, len(items))
	for k, i := range items {
		if err := i.Check(); err != nil {
			return err
		}
		rows[k] = rowOfItem(i)
	}
	if len(rows) == 0 {
		return nil
	}
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("lock table catalogue in share row exclusive mode").Error; err != nil {
			return err
		}
		err := tx.Clauses(clause.OnConflict{Columns: []clause.Column{{Name: "kind"}, {Name: "number"}}, DoUpdates: clause.AssignmentColumns([]string{"item"})}).CreateInBatches(&rows, 500).Error
		if err != nil {
			return err
		}
		var n int64
		if err := tx.Model(&catalogueRow{}).Count(&n).Error; err != nil {
			return err
		}
		if n > catalogue.MaxItems {
			return invalid.Errors{{Field: "number", Expected: "a catalogue that is not full: remove a part first", Got: "one more"}}
		}
		return act(tx, PartSaved, items[0].Number, "%d parts, the first a %s", len(items), items[0].Kind)
	})
}

// RemoveItem takes a part out of the catalogue, or fails with ErrNoItem. What was fitted stays as it is
// recorded.
func (s *Store) RemoveItem(ctx context.Context, k part.Kind, number string) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		done := tx.Where("kind = ? and number = ?", string(k), number).Delete(&catalogueRow{})
		switch {
		case done.Error != nil:
			return done.Error
		case done.RowsAffected == 0:
			return ErrNoItem
		}
		return act(tx, PartRemoved, number, "%s", k)
	})
}
