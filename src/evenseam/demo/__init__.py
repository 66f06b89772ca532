"""The demo production: an observatory's open night. Music, picture and people are made up."""
