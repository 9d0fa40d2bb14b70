package httpapi

import (
	"bytes"
	"context"
	"encoding/json"
	"io"

	"github.com/google/uuid"

	"earnestpony/internal/httpapi/apigen"
)

// asObject reads JSON to be written again, its numbers as they are.
func asObject(text []byte) (object map[string]any, err error) {
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	err = d.Decode(&object)
	return object, err
}

func (a *api) GetPassport(ctx context.Context, req apigen.GetPassportRequestObject) (apigen.GetPassportResponseObject, error) {
	text, err := a.Shop.Passport(ctx, req.Tag)
	if err != nil {
		return nil, err
	}
	object, err := asObject(text)
	return apigen.GetPassport200JSONResponse(object), err
}

func (a *api) TakePassport(ctx context.Context, req apigen.TakePassportRequestObject) (apigen.TakePassportResponseObject, error) {
	text, err := io.ReadAll(req.Body)
	if err != nil {
		return nil, err
	}
	taken, err := a.Shop.TakePassport(ctx, actor(ctx), valueOr(req.Params.Customer, uuid.Nil), text)
	return apigen.TakePassport201JSONResponse(taken), err
}

func (a *api) GetCustomerData(ctx context.Context, req apigen.GetCustomerDataRequestObject) (apigen.GetCustomerDataResponseObject, error) {
	text, err := a.Shop.CustomerData(ctx, req.Customer)
	if err != nil {
		return nil, err
	}
	object, err := asObject(text)
	return apigen.GetCustomerData200JSONResponse(object), err
}

func (a *api) EraseCustomer(ctx context.Context, req apigen.EraseCustomerRequestObject) (apigen.EraseCustomerResponseObject, error) {
	c, err := a.Shop.EraseCustomer(ctx, actor(ctx), req.Customer, req.Body.Version, valueOr(req.Body.Photos, false))
	return apigen.EraseCustomer201JSONResponse(c), err
}

func (a *api) ExportTable(ctx context.Context, req apigen.ExportTableRequestObject) (apigen.ExportTableResponseObject, error) {
	text, err := a.Shop.ExportTable(ctx, string(req.Table))
	return apigen.ExportTable200TextcsvResponse{Body: bytes.NewReader(text), ContentLength: int64(len(text))}, err
}

func (a *api) ImportTable(ctx context.Context, req apigen.ImportTableRequestObject) (apigen.ImportTableResponseObject, error) {
	data, err := io.ReadAll(req.Body)
	if err != nil {
		return nil, err
	}
	read, err := a.Shop.ImportTable(ctx, actor(ctx), string(req.Table), data, req.Params.Write)
	return apigen.ImportTable201JSONResponse(read), err
}
