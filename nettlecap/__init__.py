"""The web application: the Django project and its apps."""
