package store

import (
	"context"
	"fmt"
	"time"

	"gorm.io/gorm"
)

// Actor is who does something: a person, or a program such as the command line.
type Actor struct {
	Name    string
	Request string // the id of the request, "" for none
}

type actorKey struct{}

// WithActor returns a context whose writes are somebody's.
func WithActor(ctx context.Context, a Actor) context.Context {
	return context.WithValue(ctx, actorKey{}, a)
}

// ActorOf returns who does what is done in a context: "the program" where nobody is named.
func ActorOf(ctx context.Context) Actor {
	if a, ok := ctx.Value(actorKey{}).(Actor); ok && a.Name != "" {
		return a
	}
	return Actor{Name: "the program"}
}

// Action is a kind of line of the audit log, such as "vehicle.changed".
type Action string

// The actions.
const (
	VehicleAdded      Action = "vehicle.added"
	VehicleChanged    Action = "vehicle.changed"
	ShopChanged       Action = "shop.changed"
	JobOpened         Action = "job.opened"
	JobImported       Action = "job.imported"
	JobExported       Action = "job.exported"
	JobDeleted        Action = "job.deleted"
	ComplaintChanged  Action = "complaint.changed"
	SchoolChanged     Action = "school.changed"
	CaptureAdded      Action = "capture.added"
	CaptureChanged    Action = "capture.changed"
	PhotoAdded        Action = "photo.added"
	PhotoChanged      Action = "photo.changed"
	PartSaved         Action = "part.saved"
	PartRemoved       Action = "part.removed"
	TableExported     Action = "table.exported"
	PersonAdded       Action = "person.added"
	PersonChanged     Action = "person.changed"
	PersonForgotten   Action = "person.forgotten"
	OwnerForgotten    Action = "owner.forgotten"
	PasswordSet       Action = "password.set"
	PINSet            Action = "pin.set"
	SignedIn          Action = "session.begun"
	SignInRefused     Action = "session.refused"
	SignedOut         Action = "session.ended"
	DeviceAdded       Action = "device.added"
	DeviceRemoved     Action = "device.removed"
	CalendarAddressed Action = "calendar.addressed"
)

// actionWords says the actions, for people.
var actionWords = map[Action]string{
	VehicleAdded: "vehicle added", VehicleChanged: "vehicle changed", ShopChanged: "settings changed", JobOpened: "job opened", JobImported: "job imported",
	JobExported: "job exported", JobDeleted: "job deleted", ComplaintChanged: "complaint changed", SchoolChanged: "school of a job changed",
	CaptureAdded: "capture added", CaptureChanged: "capture changed", PhotoAdded: "photo added", PhotoChanged: "photo changed",
	PartSaved: "catalogue part saved", PartRemoved: "catalogue part removed", TableExported: "table exported", PersonAdded: "person added",
	PersonChanged: "role changed", PersonForgotten: "person's data deleted", OwnerForgotten: "owner's data deleted", PasswordSet: "password set", PINSet: "PIN changed",
	SignedIn: "signed in", SignInRefused: "sign-in refused", SignedOut: "signed out", DeviceAdded: "shared device added", DeviceRemoved: "shared device removed",
	CalendarAddressed: "calendar address made",
}

// Words says an action.
func (a Action) Words() string {
	if words, ok := actionWords[a]; ok {
		return words
	}
	return string(a)
}

// Act is a line of the audit log.
type Act struct {
	ID      int64 `gorm:"primaryKey"`
	At      time.Time
	Person  string
	Action  Action
	Subject string // what it was done to: a vehicle, a job, a person
	Detail  string
	Request string
}

// TableName is for GORM.
func (Act) TableName() string { return "audit" }

// act adds a line to the audit log, in the transaction of what was done.
func act(tx *gorm.DB, action Action, subject, detail string, args ...any) error {
	who := ActorOf(tx.Statement.Context)
	return tx.Omit("At").Create(&Act{Person: who.Name, Action: action, Subject: clip(subject, 200), Detail: clip(fmt.Sprintf(detail, args...), 400), Request: who.Request}).Error
}

// clip shortens a text to a number of characters.
func clip(text string, most int) string {
	if r := []rune(text); len(r) > most {
		return string(r[:most-1]) + "…"
	}
	return text
}

// Note adds a line for something that writes nothing, such as an export.
func (s *Store) Note(ctx context.Context, action Action, subject, detail string) error {
	return act(s.db.WithContext(ctx), action, subject, "%s", detail)
}

// MaxActs bounds one page of the audit log.
const MaxActs = 100

// Acts lists lines of the audit log, the newest first: those with an id below before (0 means all), by a person and of a
// subject where they are named, at most most. It makes one query.
func (s *Store) Acts(ctx context.Context, person, subject string, before int64, most int) (list []Act, err error) {
	q := s.db.WithContext(ctx).Order("id desc").Limit(most)
	if before > 0 {
		q = q.Where("id < ?", before)
	}
	if person != "" {
		q = q.Where("person = ?", person)
	}
	if subject != "" {
		q = q.Where("subject = ?", subject)
	}
	err = q.Find(&list).Error
	return list, err
}
