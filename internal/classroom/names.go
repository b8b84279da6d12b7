package classroom
