package httpapi

import (
	"context"

	"earnestpony/internal/httpapi/apigen"
)

func (a *api) ListMaterials(ctx context.Context, _ apigen.ListMaterialsRequestObject) (apigen.ListMaterialsResponseObject, error) {
	materials, err := a.Shop.Materials(ctx)
	return apigen.ListMaterials200JSONResponse(materials), err
}

func (a *api) AddMaterial(ctx context.Context, req apigen.AddMaterialRequestObject) (apigen.AddMaterialResponseObject, error) {
	material, err := a.Shop.AddMaterial(ctx, actor(ctx), *req.Body)
	return apigen.AddMaterial201JSONResponse(material), err
}

func (a *api) ChangeMaterial(ctx context.Context, req apigen.ChangeMaterialRequestObject) (apigen.ChangeMaterialResponseObject, error) {
	material, err := a.Shop.ChangeMaterial(ctx, actor(ctx), req.Material, req.Body.Version, req.Body.Facts, valueOr(req.Body.Retired, false))
	return apigen.ChangeMaterial200JSONResponse(material), err
}

func (a *api) RanOut(ctx context.Context, req apigen.RanOutRequestObject) (apigen.RanOutResponseObject, error) {
	material, err := a.Shop.RanOut(ctx, actor(ctx), req.Material)
	return apigen.RanOut200JSONResponse(material), err
}

func (a *api) ListBaths(ctx context.Context, _ apigen.ListBathsRequestObject) (apigen.ListBathsResponseObject, error) {
	baths, err := a.Shop.Baths(ctx)
	return apigen.ListBaths200JSONResponse(baths), err
}

func (a *api) AddBath(ctx context.Context, req apigen.AddBathRequestObject) (apigen.AddBathResponseObject, error) {
	bath, err := a.Shop.AddBath(ctx, actor(ctx), *req.Body)
	return apigen.AddBath201JSONResponse(bath), err
}

func (a *api) DoBath(ctx context.Context, req apigen.DoBathRequestObject) (apigen.DoBathResponseObject, error) {
	bath, err := a.Shop.DoBath(ctx, actor(ctx), req.Bath, *req.Body)
	return apigen.DoBath200JSONResponse(bath), err
}

func (a *api) ListWaste(ctx context.Context, _ apigen.ListWasteRequestObject) (apigen.ListWasteResponseObject, error) {
	log, err := a.Shop.WasteLog(ctx)
	return apigen.ListWaste200JSONResponse(log), err
}

func (a *api) NoteWaste(ctx context.Context, req apigen.NoteWasteRequestObject) (apigen.NoteWasteResponseObject, error) {
	log, err := a.Shop.NoteWaste(ctx, actor(ctx), *req.Body)
	return apigen.NoteWaste201JSONResponse(log), err
}

func (a *api) ListStock(ctx context.Context, req apigen.ListStockRequestObject) (apigen.ListStockResponseObject, error) {
	items, err := a.Shop.ListStock(ctx, valueOr(req.Params.Retired, false))
	return apigen.ListStock200JSONResponse(items), err
}

func (a *api) AddStock(ctx context.Context, req apigen.AddStockRequestObject) (apigen.AddStockResponseObject, error) {
	item, err := a.Shop.AddStock(ctx, actor(ctx), *req.Body)
	return apigen.AddStock201JSONResponse(item), err
}

func (a *api) ChangeStock(ctx context.Context, req apigen.ChangeStockRequestObject) (apigen.ChangeStockResponseObject, error) {
	item, err := a.Shop.ChangeStock(ctx, actor(ctx), req.Item, req.Body.Version, req.Body.Facts)
	return apigen.ChangeStock200JSONResponse(item), err
}

func (a *api) RetireStock(ctx context.Context, req apigen.RetireStockRequestObject) (apigen.RetireStockResponseObject, error) {
	item, err := a.Shop.RetireStock(ctx, actor(ctx), req.Item, req.Body.Version, req.Body.Retired)
	return apigen.RetireStock200JSONResponse(item), err
}
