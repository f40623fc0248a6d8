"""The demo shop: Ormsel Loft, sewing for the Tidelight Regatta. All made up."""
