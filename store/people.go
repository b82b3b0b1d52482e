package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"fmt"
	"time"

	"gorm.io/gorm"

	"glenmist/core/invalid"
	"glenmist/people"
)

var (
	// ErrNoPerson says that nobody of that name works here.
	ErrNoPerson = errors.New("no such person")
	// ErrRefused says that name and secret do not belong together. It does not say which one is wrong.
	ErrRefused = errors.New("name and password do not belong together")
	// ErrPINSpent says that too many wrong PINs were given: the password is needed.
	ErrPINSpent = errors.New("too many wrong PINs")
	// ErrLast says that the last administrator would be gone.
	ErrLast = errors.New("the last administrator cannot be taken away")
)

type personRow struct {
	ID           int64 `gorm:"primaryKey"`
	Name         string
	Role         string
	PasswordHash string
	PINHash      string `gorm:"column:pin_hash"`
	PINFails     int    `gorm:"column:pin_fails"`
	Epoch        int
	Gone         bool
	MadeAt       time.Time
	SeenAt       *time.Time
	FeedHash     string
}

func (personRow) TableName() string { return "people" }

func (r personRow) person() people.Person {
	p := people.Person{ID: r.ID, Name: r.Name, Role: people.Role(r.Role), HasPIN: r.PINHash != "", Gone: r.Gone, Made: r.MadeAt.UTC()}
	if r.SeenAt != nil {
		p.Seen = r.SeenAt.UTC()
	}
	return p
}

// SQL is the database underneath, for the package that keeps sessions.
func (s *Store) SQL() *sql.DB { return s.sql }

// People lists everybody by name, those who have left last.
func (s *Store) People(ctx context.Context) (all []people.Person, err error) {
	var rows []personRow
	err = s.db.WithContext(ctx).Order("gone, lower(name), id").Limit(1000).Find(&rows).Error
	for _, r := range rows {
		all = append(all, r.person())
	}
	return all, err
}

// Person reads a person with the epoch of the sessions that are valid, or fails with ErrNoPerson.
func (s *Store) Person(ctx context.Context, id int64) (p people.Person, epoch int, err error) {
	var row personRow
	err = s.db.WithContext(ctx).Where("id = ? and not gone", id).Take(&row).Error
	return row.person(), row.Epoch, noPerson(err)
}

func noPerson(err error) error {
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return ErrNoPerson
	}
	return err
}

// Anybody reports whether somebody is known, so that the first administrator need not be made.
func (s *Store) Anybody(ctx context.Context) (bool, error) {
	var ids []int64
	err := s.db.WithContext(ctx).Model(&personRow{}).Limit(1).Pluck("id", &ids).Error
	return len(ids) > 0, err
}

// AddPerson adds somebody, with a password that was checked with [people.CheckPassword], or none. It fails with
// [invalid.Errors] if the name is taken.
func (s *Store) AddPerson(ctx context.Context, name string, role people.Role, password string) (people.Person, error) {
	row := personRow{Name: name, Role: string(role), MadeAt: time.Now().UTC()}
	if password != "" {
		var err error
		if row.PasswordHash, err = people.Hash(password); err != nil {
			return people.Person{}, err
		}
	}
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Create(&row).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return invalid.Errors{{Field: "name", Expected: "a name that nobody else has", Got: invalid.Quote(name)}}
			}
			return err
		}
		return act(tx, PersonAdded, name, "as %s", role)
	})
	return row.person(), err
}

// changePerson locks somebody, and saves what change makes of the row. Sessions end if the epoch is raised.
func (s *Store) changePerson(ctx context.Context, id int64, change func(tx *gorm.DB, row *personRow) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		// One after the other, so that two administrators cannot take each other away.
		if err := tx.Exec("lock table people in share row exclusive mode").Error; err != nil {
			return err
		}
		var row personRow
		if err := tx.Clauses(lockRow).Where("id = ?", id).Take(&row).Error; err != nil {
			return noPerson(err)
		}
		if err := change(tx, &row); err != nil {
			return err
		}
		if err := tx.Save(&row).Error; err != nil {
			if errors.Is(err, gorm.ErrDuplicatedKey) {
				return invalid.Errors{{Field: "name", Expected: "a name that nobody else has", Got: invalid.Quote(row.Name)}}
			}
			return err
		}
		var heads int64
		if err := tx.Model(&personRow{}).Where("role = ? and not gone", string(people.Administrator)).Count(&heads).Error; err != nil {
			return err
		}
		if heads == 0 {
			return ErrLast
		}
		return nil
	})
}

// SetRole changes what somebody is, and whether they still work here. It fails with ErrLast if nobody could administer any
// more.
func (s *Store) SetRole(ctx context.Context, id int64, role people.Role, gone bool) error {
	return s.changePerson(ctx, id, func(tx *gorm.DB, row *personRow) error {
		was := row.person()
		row.Role, row.Gone = string(role), gone
		if gone && !was.Gone {
			row.Epoch++
		}
		words := string(role)
		if gone {
			words += ", has left"
		}
		return act(tx, PersonChanged, row.Name, "was %s, is %s", was.Role, words)
	})
}

// SetPassword sets somebody's password, which was checked with [people.CheckPassword], and signs them out everywhere.
// It returns the new epoch, for a session that may go on.
func (s *Store) SetPassword(ctx context.Context, id int64, password string) (epoch int, err error) {
	hash, err := people.Hash(password)
	if err != nil {
		return 0, err
	}
	err = s.changePerson(ctx, id, func(tx *gorm.DB, row *personRow) error {
		row.PasswordHash, row.PINFails, row.FeedHash = hash, 0, ""
		row.Epoch++
		epoch = row.Epoch
		return act(tx, PasswordSet, row.Name, "signed out everywhere")
	})
	return epoch, err
}

// EndSessions signs somebody out everywhere, and returns the new epoch.
func (s *Store) EndSessions(ctx context.Context, id int64) (epoch int, err error) {
	err = s.changePerson(ctx, id, func(tx *gorm.DB, row *personRow) error {
		row.Epoch++
		epoch = row.Epoch
		return act(tx, SignedOut, row.Name, "everywhere")
	})
	return epoch, err
}

// SetPIN sets somebody's PIN, which was checked with [people.CheckPIN]; "" takes it away.
func (s *Store) SetPIN(ctx context.Context, id int64, pin string) (err error) {
	hash := ""
	if pin != "" {
		if hash, err = people.Hash(pin); err != nil {
			return err
		}
	}
	return s.changePerson(ctx, id, func(tx *gorm.DB, row *personRow) error {
		row.PINHash, row.PINFails = hash, 0
		words := "set"
		if pin == "" {
			words = "taken away"
		}
		return act(tx, PINSet, row.Name, "%s", words)
	})
}

// SignIn finds the person with a name and a password, or fails with ErrRefused. It takes as long for an unknown name.
func (s *Store) SignIn(ctx context.Context, name, password string) (p people.Person, epoch int, err error) {
	var row personRow
	err = s.db.WithContext(ctx).Where("lower(name) = lower(?) and not gone", name).Take(&row).Error
	if err != nil && !errors.Is(err, gorm.ErrRecordNotFound) {
		return p, 0, err
	}
	if !people.Matches(password, row.PasswordHash) {
		return p, 0, errors.Join(ErrRefused, s.Note(WithActor(ctx, Actor{Name: "somebody", Request: ActorOf(ctx).Request}), SignInRefused, name, "by password"))
	}
	return s.begin(ctx, row, "by password")
}

// SignInByPIN finds a person by a PIN. The caller has checked that the device is a known one. It fails with ErrRefused or
// ErrPINSpent.
func (s *Store) SignInByPIN(ctx context.Context, id int64, pin string) (p people.Person, epoch int, err error) {
	var row personRow
	// The try is counted first, so that several at once cannot get more of them.
	err = s.db.WithContext(ctx).Raw("update people set pin_fails = pin_fails + 1 where id = ? and not gone and pin_hash <> '' and pin_fails < ? returning *", id, people.MaxPINFails).Scan(&row).Error
	if err != nil {
		return p, 0, err
	}
	if row.ID == 0 {
		return p, 0, ErrPINSpent
	}
	if !people.Matches(pin, row.PINHash) {
		return p, 0, errors.Join(ErrRefused, s.Note(WithActor(ctx, Actor{Name: "somebody", Request: ActorOf(ctx).Request}), SignInRefused, row.Name, "by PIN"))
	}
	return s.begin(ctx, row, "by PIN")
}

// SignInFreely signs somebody in without a secret, in the demo.
func (s *Store) SignInFreely(ctx context.Context, id int64) (p people.Person, epoch int, err error) {
	var row personRow
	if err := s.db.WithContext(ctx).Where("id = ? and not gone", id).Take(&row).Error; err != nil {
		return p, 0, noPerson(err)
	}
	return s.begin(ctx, row, "by one tap, in the demo")
}

func (s *Store) begin(ctx context.Context, row personRow, how string) (people.Person, int, error) {
	ctx = WithActor(ctx, Actor{Name: row.Name, Request: ActorOf(ctx).Request})
	now := time.Now().UTC()
	err := s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Model(&personRow{ID: row.ID}).Updates(map[string]any{"seen_at": now, "pin_fails": 0}).Error; err != nil {
			return err
		}
		return act(tx, SignedIn, row.Name, "%s", how)
	})
	return row.person(), row.Epoch, err
}

// Token returns a new random token and the digest by which it is kept.
func Token() (token, digest string) {
	token = rand.Text()
	return token, digestOf(token)
}

func digestOf(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// Device is a device that several people use.
type Device struct {
	ID        int64 `gorm:"primaryKey"`
	Name      string
	TokenHash string
	MadeAt    time.Time
	MadeBy    string
	Gone      bool
}

// TableName is for GORM.
func (Device) TableName() string { return "devices" }

// AddDevice makes a device known, and returns the token that it shows.
func (s *Store) AddDevice(ctx context.Context, name string) (token string, err error) {
	token, digest := Token()
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Create(&Device{Name: name, TokenHash: digest, MadeAt: time.Now().UTC(), MadeBy: ActorOf(ctx).Name}).Error; err != nil {
			return err
		}
		return act(tx, DeviceAdded, name, "people can sign in on it by PIN")
	})
	return token, err
}

// DeviceOf finds the device that shows a token; ok is false if it is not known.
func (s *Store) DeviceOf(ctx context.Context, token string) (d Device, ok bool, err error) {
	if token == "" || len(token) > 100 {
		return d, false, nil
	}
	err = s.db.WithContext(ctx).Where("token_hash = ? and not gone", digestOf(token)).Take(&d).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return d, false, nil
	}
	return d, err == nil, err
}

// Devices lists the known devices, the newest first.
func (s *Store) Devices(ctx context.Context) (all []Device, err error) {
	err = s.db.WithContext(ctx).Where("not gone").Order("id desc").Limit(200).Find(&all).Error
	return all, err
}

// RemoveDevice makes a device unknown.
func (s *Store) RemoveDevice(ctx context.Context, id int64) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		var d Device
		err := tx.Clauses(lockRow).Where("id = ? and not gone", id).Take(&d).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return fmt.Errorf("%w: device %d", ErrNotFound, id)
		}
		if err != nil {
			return err
		}
		if err := tx.Model(&d).Update("gone", true).Error; err != nil {
			return err
		}
		return act(tx, DeviceRemoved, d.Name, "no PIN helps on it any more")
	})
}

// Feed makes a new secret for somebody's calendar address. The old one stops working.
func (s *Store) Feed(ctx context.Context, id int64) (secret string, err error) {
	secret, digest := Token()
	err = s.changePerson(ctx, id, func(tx *gorm.DB, row *personRow) error {
		row.FeedHash = digest
		return act(tx, CalendarAddressed, row.Name, "a new calendar address")
	})
	return secret, err
}

// PersonOfFeed finds who a calendar address belongs to, or fails with ErrNoPerson.
func (s *Store) PersonOfFeed(ctx context.Context, secret string) (people.Person, error) {
	var row personRow
	if secret == "" || len(secret) > 100 {
		return people.Person{}, ErrNoPerson
	}
	err := s.db.WithContext(ctx).Where("feed_hash = ? and not gone", digestOf(secret)).Take(&row).Error
	return row.person(), noPerson(err)
}
