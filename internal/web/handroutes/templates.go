package handroutes

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"io"
	"strings"

	"github.com/gabriel-vasile/mimetype"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/document"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// ListTemplates implements the route of that name.
func (s *packRoutes) ListTemplates(ctx context.Context, _ api.ListTemplatesRequestObject) (api.ListTemplatesResponseObject, error) {
	ts, err := s.handouts.Templates(ctx, desk.Account(ctx))
	out := api.ListTemplates200JSONResponse{}
	for _, t := range ts {
		out = append(out, templateView(t))
	}
	return out, err
}

func templateView(t handout.Template) api.Template {
	return api.Template{Id: t.ID, Name: t.Name, Thing: t.Thing, Text: document.IsText(t.MediaType), AddedAt: t.CreatedAt.UTC()}
}

// RenameTemplate implements the route of that name.
func (s *packRoutes) RenameTemplate(ctx context.Context, r api.RenameTemplateRequestObject) (api.RenameTemplateResponseObject, error) {
	return api.RenameTemplate204Response{}, s.handouts.RenameTemplate(ctx, desk.Account(ctx), key(ctx), r.TemplateId, r.Body.Name)
}

// RemoveTemplate implements the route of that name.
func (s *packRoutes) RemoveTemplate(ctx context.Context, r api.RemoveTemplateRequestObject) (api.RemoveTemplateResponseObject, error) {
	return api.RemoveTemplate204Response{}, s.handouts.RemoveTemplate(ctx, desk.Account(ctx), key(ctx), r.TemplateId)
}

// UploadTemplate implements the route of that name.
func (s *packRoutes) UploadTemplate(ctx context.Context, r api.UploadTemplateRequestObject) (api.UploadTemplateResponseObject, error) {
	f, _, err := desk.FormFile(r.Body)
	if err != nil {
		return nil, err
	}
	kind, sniffed, err := sniff(f.Name, f)
	content := bufio.NewReader(sniffed)
	if err != nil {
		return nil, err
	}
	if _, err := content.ReadByte(); err != nil {
		if errors.Is(err, io.EOF) {
			err = change.Refuse("file", "file-empty")
		}
		return nil, err
	}
	if err := content.UnreadByte(); err != nil {
		return nil, err
	}
	t, err := s.handouts.AddTemplate(desk.About(ctx, nil), desk.Account(ctx), f.Name, kind, content)
	if err != nil {
		return nil, err
	}
	return api.UploadTemplate201JSONResponse(templateView(t)), nil
}

// sniff tells a file's media type from its content and, for text, its ending.
// It returns the content whole again.
func sniff(name string, r io.Reader) (string, io.Reader, error) {
	head := make([]byte, 3072)
	n, err := io.ReadFull(r, head)
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return "", nil, err
	}
	kind := mimetype.Detect(head[:n]).String()
	if strings.HasPrefix(kind, "text/") {
		if document.IsTextName(name) {
			kind = "text/markdown; charset=utf-8"
		}
	}
	return kind, io.MultiReader(bytes.NewReader(head[:n]), r), nil
}

// WriteTemplate implements the route of that name.
func (s *packRoutes) WriteTemplate(ctx context.Context, r api.WriteTemplateRequestObject) (api.WriteTemplateResponseObject, error) {
	if len(r.Body.Text) > document.MaxText {
		return nil, desk.ErrTooLarge
	}
	name := strings.TrimSuffix(strings.TrimSpace(r.Body.Name), ".md")
	if name == "" {
		return nil, change.Refuse("name", "missing")
	}
	t, err := s.handouts.AddTemplate(ctx, desk.Account(ctx), name+".md", "text/markdown; charset=utf-8", strings.NewReader(r.Body.Text))
	if err != nil {
		return nil, err
	}
	return api.WriteTemplate201JSONResponse(templateView(t)), nil
}
