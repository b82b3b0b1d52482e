package store

import (
	"compress/gzip"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"time"

	"gorm.io/gorm"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
)

// Capture describes a stored file of secondary kilovolts.
type Capture struct {
	Number int // in its job, from 1
	Name   string
	Bytes  int64
	SHA256 string // digest of the original file
	Made   time.Time
	By     string
	// Condition is the running condition. Factor is the division ratio of the probe, 0 for
	// none. Turn shifts the cylinders by some places of the firing order.
	Condition evidence.Condition
	Factor    float64
	Turn      int
	Removed   bool
	// Channels is what each channel shows as somebody stated it, see [scope.RolesText]; "" is not stated.
	Channels string
	// Rate is the samples a second of a file without a time; 0 if the file states it.
	Rate float64
}

// ErrFull says that a job has as many captures as it may have.
var ErrFull = fmt.Errorf("a job has at most %d captures", evidence.MaxCaptures)

type captureRow struct {
	ID        int64 `gorm:"primaryKey"`
	JobID     int64
	Number    int
	Name      string
	Bytes     int64
	SHA256    string `gorm:"column:sha256"`
	MadeAt    time.Time
	MadeBy    string
	Condition string
	Factor    float64
	Turn      int
	Removed   bool
	Channels  string
	Rate      float64
}

func (captureRow) TableName() string { return "captures" }

func (r captureRow) capture() Capture {
	return Capture{r.Number, r.Name, r.Bytes, r.SHA256, r.MadeAt.UTC(), r.MadeBy, evidence.Condition(r.Condition), r.Factor, r.Turn, r.Removed, r.Channels, r.Rate}
}

type pieceRow struct {
	CaptureID int64 `gorm:"primaryKey"`
	Seq       int   `gorm:"primaryKey"`
	Data      []byte
}

func (pieceRow) TableName() string { return "capture_pieces" }

// AddCapture stores a file with a job. fill writes it byte for byte; nothing is stored if it
// fails. It fills in number, bytes and digest. The file is compressed and written in pieces. A
// database connection is held while fill runs, so fill must not wait for the network.
func (s *Store) AddCapture(ctx context.Context, job string, c Capture, fill func(io.Writer) error) (Capture, error) {
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var ids []int64
		if err := tx.Raw("select id from jobs where number = ?", job).Scan(&ids).Error; err != nil {
			return err
		}
		if len(ids) == 0 {
			return fmt.Errorf("%w: %s", ErrNotFound, invalid.Quote(job))
		}
		row := captureRow{JobID: ids[0], Name: c.Name, MadeAt: c.Made, MadeBy: c.By, Condition: string(c.Condition), Factor: c.Factor, Turn: c.Turn, Removed: c.Removed, Channels: c.Channels, Rate: c.Rate}
		if err := tx.Omit("Number").Create(&row).Error; err != nil {
			return err
		}
		pieces := &pieceWriter{tx: tx, of: row.ID}
		zip, err := gzip.NewWriterLevel(pieces, gzip.BestSpeed)
		if err != nil {
			return err
		}
		sum := sha256.New()
		counted := &counting{w: io.MultiWriter(sum, zip)}
		if err := fill(counted); err != nil {
			return err
		}
		if err := errors.Join(zip.Close(), pieces.flush()); err != nil {
			return err
		}
		// The job is locked only here, briefly, so that numbers are assigned one by one.
		var last int
		if _, err := lockJob(tx, job); err != nil {
			return err
		}
		if err := tx.Raw("select coalesce(max(number), 0) from captures where job_id = ?", row.JobID).Scan(&last).Error; err != nil {
			return err
		}
		if row.Number = last + 1; row.Number > evidence.MaxCaptures {
			return ErrFull
		}
		row.Bytes, row.SHA256 = counted.n, hex.EncodeToString(sum.Sum(nil))
		c = row.capture()
		if err := tx.Save(&row).Error; err != nil {
			return err
		}
		return act(tx, CaptureAdded, job, "capture %d: %s, %d bytes", row.Number, row.Name, row.Bytes)
	})
	return c, err
}

type counting struct {
	w io.Writer
	n int64
}

func (c *counting) Write(p []byte) (int, error) {
	n, err := c.w.Write(p)
	c.n += int64(n)
	return n, err
}

// pieceWriter writes rows of limited size.
type pieceWriter struct {
	tx   *gorm.DB
	of   int64
	seq  int
	held []byte
}

const piece = 256 << 10

func (p *pieceWriter) Write(data []byte) (int, error) {
	p.held = append(p.held, data...)
	for len(p.held) >= piece {
		if err := p.put(p.held[:piece]); err != nil {
			return 0, err
		}
		p.held = append(p.held[:0], p.held[piece:]...)
	}
	return len(data), nil
}

func (p *pieceWriter) flush() error {
	if len(p.held) == 0 {
		return nil
	}
	return p.put(p.held)
}

func (p *pieceWriter) put(data []byte) error {
	p.seq++
	return p.tx.Create(&pieceRow{p.of, p.seq, data}).Error
}

// Captures lists the captures of a job by number, removed ones included.
func (s *Store) Captures(ctx context.Context, job string) ([]Capture, error) {
	var rows []captureRow
	err := s.db.WithContext(ctx).Joins("join jobs on jobs.id = captures.job_id").Where("jobs.number = ?", job).Order("captures.number").Find(&rows).Error
	var all []Capture
	for _, r := range rows {
		all = append(all, r.capture())
	}
	return all, err
}

// Capture returns one capture of a job, or ErrNotFound.
func (s *Store) Capture(ctx context.Context, job string, number int) (Capture, error) {
	row, err := s.captureRow(ctx, job, number)
	return row.capture(), err
}

func (s *Store) captureRow(ctx context.Context, job string, number int) (captureRow, error) {
	var row captureRow
	err := s.db.WithContext(ctx).Joins("join jobs on jobs.id = captures.job_id").Where("jobs.number = ? and captures.number = ?", job, number).Take(&row).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return row, fmt.Errorf("%w: capture %d of %s", ErrNotFound, number, invalid.Quote(job))
	}
	return row, err
}

// CaptureFile streams the original file of a capture to read. A database connection is held
// while read runs, so read must not wait for the network.
func (s *Store) CaptureFile(ctx context.Context, job string, number int, read func(io.Reader) error) (err error) {
	row, err := s.captureRow(ctx, job, number)
	if err != nil {
		return err
	}
	rows, err := s.db.WithContext(ctx).Raw("select data from capture_pieces where capture_id = ? order by seq", row.ID).Rows()
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, rows.Err(), rows.Close()) }()
	file, err := gzip.NewReader(&pieceReader{next: func() ([]byte, error) {
		if !rows.Next() {
			if err := rows.Err(); err != nil {
				return nil, err
			}
			return nil, io.EOF
		}
		var data []byte
		err := rows.Scan(&data)
		return data, err
	}})
	if err != nil {
		return fmt.Errorf("capture %d of %s: %w", number, job, err)
	}
	return read(file)
}

type pieceReader struct {
	next func() ([]byte, error)
	held []byte
}

func (p *pieceReader) Read(b []byte) (int, error) {
	for len(p.held) == 0 {
		data, err := p.next()
		if err != nil {
			return 0, err
		}
		p.held = data
	}
	n := copy(b, p.held)
	p.held = p.held[n:]
	return n, nil
}

// TurnCapture sets the shift of a capture's cylinders in the firing order and raises the
// version of the job. It fails with ErrStale if somebody has written to the job since.
func (s *Store) TurnCapture(ctx context.Context, rec Record, number, turn int) error {
	return s.changeCapture(ctx, rec, number, "turn", turn)
}

// NameChannels sets what the channels of a capture show, like [Store.TurnCapture].
func (s *Store) NameChannels(ctx context.Context, rec Record, number int, channels string) error {
	return s.changeCapture(ctx, rec, number, "channels", channels)
}

// RemoveCapture removes a capture or brings it back, like [Store.TurnCapture].
func (s *Store) RemoveCapture(ctx context.Context, rec Record, number int, removed bool) error {
	return s.changeCapture(ctx, rec, number, "removed", removed)
}

func (s *Store) changeCapture(ctx context.Context, rec Record, number int, column string, value any) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		id, err := raiseVersion(tx, rec.Job.Number, rec.Version)
		if err != nil {
			return err
		}
		done := tx.Model(&captureRow{}).Where("job_id = ? and number = ?", id, number).Update(column, value)
		if done.Error == nil && done.RowsAffected == 0 {
			return fmt.Errorf("%w: capture %d of %s", ErrNotFound, number, invalid.Quote(rec.Job.Number))
		}
		if done.Error != nil {
			return done.Error
		}
		return act(tx, CaptureChanged, rec.Job.Number, "capture %d: %s is %v", number, column, value)
	})
}
