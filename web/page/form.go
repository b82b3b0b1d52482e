package page

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"glenmist/core/invalid"
	"glenmist/store"
)

// Form holds the typed values and their errors by field.
type Form struct {
	url.Values
	Errors map[string]invalid.Error
	// Other lists errors that belong to no field.
	Other invalid.Errors
}

// Error returns the error of a field, or nil.
func (f Form) Error(field string) *invalid.Error {
	if e, ok := f.Errors[field]; ok {
		return &e
	}
	return nil
}

// Pristine reports whether nothing has been sent yet, so that a draft of the browser can be
// restored.
func (f Form) Pristine() bool { return len(f.Errors) == 0 && len(f.Other) == 0 }

// Is reports whether a field has a value, for selects and check boxes.
func (f Form) Is(field, value string) bool { return f.Get(field) == value }

// Has reports whether a field with several values has a value.
func (f Form) Has(field, value string) bool { return slices.Contains(f.Values[field], value) }

// Choice is one possible value of a field, with its label.
type Choice struct{ Value, Words string }

// NewForm assigns errors to fields. field maps the path of an error to the name of a form
// field, or "".
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

// BadText finds fields with invalid UTF-8 or control characters, which neither a page nor the
// database can store.
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

// SameName is for [NewForm] if errors use the names of form fields.
func SameName(field string) string { return field }

// FieldsOf returns the field errors of an error, or nil for another kind of error.
func FieldsOf(err error) invalid.Errors {
	if errs, ok := errors.AsType[invalid.Errors](err); ok {
		return errs
	}
	if errors.Is(err, store.ErrNumberTaken) {
		return invalid.Errors{{Field: "number", Expected: "a job number that is free", Got: "one that is in use"}}
	}
	return nil
}

// FileName keeps the characters that are safe in a file name.
func FileName(number string) string {
	return strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || r == '-' {
			return r
		}
		return '_'
	}, number)
}

// ReadAtMost reads at most some bytes of a file.
func ReadAtMost(r io.Reader, most int64) ([]byte, error) {
	return io.ReadAll(io.LimitReader(r, most))
}

// RowField returns the name of a field in a table row, counted from 0.
func RowField(name string, row int) string { return fmt.Sprintf("%s-%d", name, row) }

// Number reads a number with a decimal point or comma; nil if the field is empty. An invalid
// number is added to bad.
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

// NumberOf reads the number n of an address, from 1 to most.
func NumberOf(r *http.Request, most int) (n int, ok bool) {
	n, err := strconv.Atoi(chi.URLParam(r, "n"))
	return n, err == nil && n >= 1 && n <= most
}

// Cell makes a text safe for a cell of a table program, which would compute what begins like a formula.
func Cell(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r", rune(text[0])) {
		return "'" + text
	}
	return text
}
