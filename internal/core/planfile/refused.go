package planfile

import (
	"errors"
	"strconv"
	"strings"

	"jollysatchel/internal/core/change"
)

// Refused is what was wrong with a file as a refusal of a field; other errors stay as they are.
func Refused(field string, err error) error {
	var e *Error
	if errors.As(err, &e) {
		return &change.Invalid{Field: field, Code: e.Code, Args: e.Args}
	}
	return err
}

// AskFor refuses a file until it is said what stands for its unknown columns: all of them are told
// in one text and, by their places, one by one.
func AskFor(unknown []string) error {
	args := map[string]string{"columns": strings.Join(unknown, ", ")}
	for i, label := range unknown {
		args[strconv.Itoa(i)] = label
	}
	return &change.Invalid{Field: "file", Code: "columns-unknown", Args: args}
}
