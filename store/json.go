package store

import (
	"context"
	"fmt"
	"reflect"

	"github.com/go-json-experiment/json"
	"gorm.io/gorm/schema"
)

// jsonColumn keeps a field as JSON under the names of the case file; a nil list is an empty one.
type jsonColumn struct{}

// nullableColumn keeps a pointer likewise; nil is null.
type nullableColumn struct{ jsonColumn }

// Value is a field as it is kept.
func (c nullableColumn) Value(ctx context.Context, field *schema.Field, dst reflect.Value, value any) (any, error) {
	if v := reflect.ValueOf(value); !v.IsValid() || v.Kind() == reflect.Pointer && v.IsNil() {
		return nil, nil
	}
	return c.jsonColumn.Value(ctx, field, dst, value)
}

func init() {
	schema.RegisterSerializer("case", jsonColumn{})
	schema.RegisterSerializer("nullable", nullableColumn{})
}

// Scan reads a column into a field.
func (jsonColumn) Scan(ctx context.Context, field *schema.Field, dst reflect.Value, column any) error {
	value := reflect.New(field.FieldType)
	var data []byte
	switch column := column.(type) {
	case nil:
	case []byte:
		data = column
	case string:
		data = []byte(column)
	default:
		return fmt.Errorf("column %s: expected JSON, got %T", field.DBName, column)
	}
	if data != nil {
		if err := json.Unmarshal(data, value.Interface()); err != nil {
			return fmt.Errorf("column %s: %w", field.DBName, err)
		}
	}
	field.ReflectValueOf(ctx, dst).Set(value.Elem())
	return nil
}

// Value is a field as it is kept.
func (jsonColumn) Value(_ context.Context, _ *schema.Field, _ reflect.Value, value any) (any, error) {
	data, err := json.Marshal(value, json.Deterministic(true))
	return string(data), err
}
