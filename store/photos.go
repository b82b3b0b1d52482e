package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"glenmist/core/invalid"
	"glenmist/core/part"
)

// MaxPhotos bounds the photos of a job.
const MaxPhotos = 60

// OffTag is the tag of a photo of what came off for a repair: it shows no single part.
const OffTag part.Tag = "off"

// ErrFullPhotos says that a job has as many photos as it may have.
var ErrFullPhotos = fmt.Errorf("a job has at most %d photos", MaxPhotos)

// Photo is what is known of a photo that is kept with a job.
type Photo struct {
	Number        int // in its job, from 1
	Tag           part.Tag
	Made          time.Time
	By            string
	Width, Height int
	SHA256        string // of the JPEG that is kept
	Removed       bool
}

type photoRow struct {
	ID      int64 `gorm:"primaryKey"`
	JobID   int64
	Number  int
	Tag     string
	MadeAt  time.Time
	MadeBy  string
	Width   int
	Height  int
	SHA256  string `gorm:"column:sha256"`
	JPEG    []byte `gorm:"column:jpeg"`
	Removed bool
}

func (photoRow) TableName() string { return "photos" }

func (r photoRow) photo() Photo {
	return Photo{r.Number, part.Tag(r.Tag), r.MadeAt.UTC(), r.MadeBy, r.Width, r.Height, r.SHA256, r.Removed}
}

// AddPhoto keeps a photo with a job and gives it the next number; p's own is not used. It fails
// with ErrNotFound or ErrFullPhotos.
func (s *Store) AddPhoto(ctx context.Context, job string, p Photo, jpeg []byte) (Photo, error) {
	sum := sha256.Sum256(jpeg)
	row := photoRow{Tag: string(p.Tag), MadeAt: p.Made, MadeBy: p.By, Width: p.Width, Height: p.Height, SHA256: hex.EncodeToString(sum[:]), JPEG: jpeg, Removed: p.Removed}
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		// Two photos added at once would get the same number, so the job is locked.
		id, err := lockJob(tx, job)
		if err != nil {
			return err
		}
		row.JobID = id
		if err := tx.Raw("select coalesce(max(number), 0) + 1 from photos where job_id = ?", row.JobID).Scan(&row.Number).Error; err != nil {
			return err
		}
		if row.Number > MaxPhotos {
			return ErrFullPhotos
		}
		if err := tx.Create(&row).Error; err != nil {
			return err
		}
		return act(tx, PhotoAdded, job, "photo %d of %s", row.Number, row.Tag)
	})
	return row.photo(), err
}

// Photos lists the photos of a job, without their pixels.
func (s *Store) Photos(ctx context.Context, job string) ([]Photo, error) {
	var rows []photoRow
	err := s.db.WithContext(ctx).Omit("jpeg").Joins("join jobs on jobs.id = photos.job_id").Where("jobs.number = ?", job).Order("photos.number").Find(&rows).Error
	var all []Photo
	for _, r := range rows {
		all = append(all, r.photo())
	}
	return all, err
}

// Photo is one photo of a job by its number, with its JPEG, or fails with ErrNotFound.
func (s *Store) Photo(ctx context.Context, job string, number int) (Photo, []byte, error) {
	var row photoRow
	err := s.db.WithContext(ctx).Joins("join jobs on jobs.id = photos.job_id").Where("jobs.number = ? and photos.number = ?", job, number).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		err = fmt.Errorf("%w: photo %d of %s", ErrNotFound, number, invalid.Quote(job))
	}
	return row.photo(), row.JPEG, err
}

// SetPhoto puts a photo away or brings it back.
func (s *Store) SetPhoto(ctx context.Context, job string, number int, removed bool) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		done := tx.Exec("update photos set removed = ? from jobs where jobs.id = photos.job_id and jobs.number = ? and photos.number = ?", removed, job, number)
		switch {
		case done.Error != nil:
			return done.Error
		case done.RowsAffected == 0:
			return fmt.Errorf("%w: photo %d of %s", ErrNotFound, number, invalid.Quote(job))
		}
		words := "brought back"
		if removed {
			words = "put away"
		}
		return act(tx, PhotoChanged, job, "photo %d %s", number, words)
	})
}
