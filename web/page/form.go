package page

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"glenmist/core/invalid"
	"glenmist/store"
)

// Form is what was typed, with what is wrong with it, field by field.
type Form struct {
	url.Values
	Errors map[string]invalid.Error
	// Other lists what is wrong with no field of the form in particular.
	Other invalid.Errors
}

// Error is what is wrong with a field, or nil.
func (f Form) Error(field string) *invalid.Error {
	if e, ok := f.Errors[field]; ok {
		return &e
	}
	return nil
}

// Pristine says that nothing has been sent yet, so that a draft kept by the
// browser may be filled in.
func (f Form) Pristine() bool { return len(f.Errors) == 0 && len(f.Other) == 0 }

// Is says whether a field holds a value, for selects and check boxes.
func (f Form) Is(field, value string) bool { return f.Get(field) == value }

// Choice is one of the values that a field may take, in words.
type Choice struct{ Value, Words string }

// NewForm puts errors beside fields. field maps the path of an error to the name
// of a field of the form, or to "".
func NewForm(values url.Values, errs invalid.Errors, field func(path string) string) Form {
	f := Form{Values: values, Errors: map[string]invalid.Error{}}
	for _, e := range errs {
		name := field(e.Field)
		if _, taken := f.Errors[name]; name == "" || taken {
			f.Other = append(f.Other, e)
			continue
		}
		f.Errors[name] = e
	}
	return f
}

// BadText finds the fields that are not valid UTF-8 or hold control characters,
// which neither a page nor the database can keep.
func BadText(values url.Values) invalid.Errors {
	var bad invalid.Errors
	for field, list := range values {
		for _, text := range list {
			clean := strings.ToValidUTF8(text, "\uFFFD")
			if clean != text || strings.ContainsRune(text, 0) {
				bad.Add(field, "text in UTF-8", invalid.Quote(strings.ReplaceAll(clean, "\x00", "\uFFFD")))
				values.Set(field, strings.ReplaceAll(clean, "\x00", "\uFFFD"))
			}
		}
	}
	return bad
}

// SameName is for [NewForm] where errors name the fields of the form.
func SameName(field string) string { return field }

// FieldsOf is the fields an error names, or nil when it is of another kind.
func FieldsOf(err error) invalid.Errors {
	if errs, ok := errors.AsType[invalid.Errors](err); ok {
		return errs
	}
	if errors.Is(err, store.ErrNumberTaken) {
		return invalid.Errors{{Field: "number", Expected: "a job number that is free", Got: "one that is in use"}}
	}
	return nil
}

// FileName keeps what is safe in a file's name.
func FileName(number string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || r == '-' {
			return r
		}
		return '_'
	}, number)
}

// ReadAtMost reads a file up to some bytes.
func ReadAtMost(r io.Reader, most int64) ([]byte, error) {
	return io.ReadAll(io.LimitReader(r, most))
}

// RowField is the name of a field in a row of a table, rows counted from 0.
func RowField(name string, row int) string { return fmt.Sprintf("%s-%d", name, row) }

// Number is a number that was typed, with a point or a comma; nil where nothing was. It adds to
// bad where it is none.
func Number(typed url.Values, field string, bad *invalid.Errors) *float64 {
	text := strings.TrimSpace(typed.Get(field))
	if text == "" {
		return nil
	}
	v, ok := figure(text)
	if !ok {
		bad.Add(field, "a number, such as 12.5", invalid.Quote(text))
		return nil
	}
	return &v
}

// NumberOf is the number n in an address, from 1 to most.
func NumberOf(r *http.Request, most int) (n int, ok bool) {
	n, err := strconv.Atoi(chi.URLParam(r, "n"))
	return n, err == nil && n >= 1 && n <= most
}
