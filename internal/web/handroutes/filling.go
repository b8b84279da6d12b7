package handroutes

import (
	"context"
	"net/http"
	"strings"

	"jollysatchel/internal/document"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// PreviewFilling implements the route of that name.
func (s *packRoutes) PreviewFilling(ctx context.Context, r api.PreviewFillingRequestObject) (api.PreviewFillingResponseObject, error) {
	leave, err := s.Costly(ctx, s.Compares)
	if err != nil {
		return nil, err
	}
	defer leave()
	f, err := s.packing.PreviewFilling(ctx, r.ClassId, r.HandoutId, r.Slot, desk.Deref(r.Params.Whom))
	if err != nil {
		return nil, err
	}
	defer f.Close()
	out := api.PreviewFilling200JSONResponse{Columns: []api.FillingColumn{}, Missing: append([]string{}, f.Missing...),
		Unreadable: f.Unreadable, Takers: []api.FillingTaker{}, Whom: f.Whom}
	for _, c := range f.Columns {
		out.Columns = append(out.Columns, api.FillingColumn{Label: c.Label, Value: c.Value, Lacking: c.Lacking})
	}
	for _, t := range f.Takers {
		out.Takers = append(out.Takers, api.FillingTaker{Whom: t.Whom, Name: t.Name})
	}
	if document.IsText(f.MediaType) && len(f.Columns) > 0 {
		var text strings.Builder
		if err := f.Write(&text); err != nil {
			return nil, err
		}
		gate.Aside(func() { out.Html, _ = document.HTML(text.String()) })
	}
	return out, nil
}

// aCopy answers GetFilled, as a download.
type aCopy struct{ *pack.Filling }

// VisitGetFilledResponse implements api.GetFilledResponseObject.
func (c aCopy) VisitGetFilledResponse(w http.ResponseWriter) error {
	defer c.Close()
	h := w.Header()
	h.Set("Content-Type", "application/octet-stream")
	h.Set("Content-Disposition", desk.Disposition(c.Name))
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	w.WriteHeader(http.StatusOK)
	return c.Write(w)
}

// GetFilled implements the route of that name.
func (s *packRoutes) GetFilled(ctx context.Context, r api.GetFilledRequestObject) (api.GetFilledResponseObject, error) {
	leave, err := s.Costly(ctx, s.Compares)
	if err != nil {
		return nil, err
	}
	defer leave()
	f, err := s.packing.PreviewFilling(ctx, r.ClassId, r.HandoutId, r.Slot, desk.Deref(r.Params.Whom))
	if err != nil {
		return nil, err
	}
	if f.Whom == "" && len(f.Takers) == 0 {
		return nil, seam.ErrNotFound
	}
	return aCopy{f}, nil
}
